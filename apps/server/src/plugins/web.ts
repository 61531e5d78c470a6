import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import staticFiles from '@fastify/static';
import type { FastifyInstance } from 'fastify';

/** Serves the built web application: assets for ever (their names hold a hash), the page itself for every other address. */
export async function serveWeb(app: FastifyInstance, webDir: string): Promise<void> {
  const page = path.join(webDir, 'index.html');
  if (!existsSync(page))
    throw new Error(`The web application isn’t built: ${page} is missing. Run \`npm start\`, or \`npm run build -w apps/web\`.`);
  const html = readFileSync(page);
  await app.register(staticFiles, {
    root: path.join(webDir, 'assets'),
    prefix: '/assets/',
    immutable: true,
    maxAge: '365d',
    index: false,
  });
  app.get('/*', { schema: { hide: true } }, async (request, reply) => {
    if (/^\/(api|assets)(\/|$)/.test(request.url)) return reply.callNotFound();
    return reply.type('text/html; charset=utf-8').header('cache-control', 'no-cache').send(html);
  });
}
