import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import staticFiles from '@fastify/static';
import type { FastifyInstance } from 'fastify';
import { ProblemError } from '../problem.ts';

/** Serves the built web application: assets for ever (their names hold a hash), the page itself for every other address. */
export async function serveWeb(app: FastifyInstance, webDir: string): Promise<void> {
  const page = path.join(webDir, 'index.html');
  if (!existsSync(page))
    throw new Error(`The web application isn’t built: ${page} is missing. Run \`npm start\`, or \`npm run build -w apps/web\`.`);
  const html = readFileSync(page);
  await app.register(async (own) => {
    // Assets lie in one folder under plain names: any other address names none.
    own.addHook('onRequest', async (request) => {
      if (!/^\/assets\/[\w.-]+$/.test(request.url)) throw new ProblemError('thing/not-found');
    });
    await own.register(staticFiles, {
      root: path.join(webDir, 'assets'),
      prefix: '/assets/',
      immutable: true,
      maxAge: '365d',
      index: false,
      // The build leaves `x.js.br` and `x.js.gz` beside `x.js`.
      preCompressed: true,
    });
  });
  app.get('/*', { schema: { hide: true } }, async (request, reply) => {
    if (/^\/(api|assets)(\/|$)/.test(request.url)) return reply.callNotFound();
    return reply.type('text/html; charset=utf-8').header('cache-control', 'no-cache').send(html);
  });
}
