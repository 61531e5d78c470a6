import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import staticFiles from '@fastify/static';
import type { FastifyInstance } from 'fastify';
import { ProblemError } from '../problem.ts';

/** A worker's script carries the policy that the worker runs under. */
const WORKER = /^\/assets\/[\w-]*worker/;

/** Headers that a browser heeds for documents alone. */
const OF_PAGES = [
  'cross-origin-opener-policy',
  'origin-agent-cluster',
  'referrer-policy',
  'x-dns-prefetch-control',
  'x-download-options',
  'x-frame-options',
  'x-permitted-cross-domain-policies',
  'x-xss-protection',
] as const;

/** Serves the built web application: assets for ever (their names hold a hash), the page itself for every other address. */
export async function serveWeb(
  app: FastifyInstance,
  webDir: string,
  findFrames: (address: string) => Promise<readonly string[]>,
): Promise<void> {
  const page = path.join(webDir, 'index.html');
  if (!existsSync(page))
    throw new Error(`The web application isn’t built: ${page} is missing. Run \`npm start\`, or \`npm run build -w apps/web\`.`);
  const html = readFileSync(page);
  await app.register(async (own) => {
    // Assets lie in one folder under plain names: any other address names none.
    own.addHook('onRequest', async (request) => {
      if (!/^\/assets\/[\w.-]+$/.test(request.url)) throw new ProblemError('thing/not-found');
      // The build has compressed what is worth it.
      request.headers['x-no-compression'] = '1';
    });
    // What is said of pages says nothing of scripts, styles and fonts, and there are many of them.
    own.addHook('onSend', async (request, reply) => {
      for (const name of OF_PAGES) reply.removeHeader(name);
      if (!WORKER.test(request.url)) reply.removeHeader('content-security-policy');
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
  // A public form may stand within the pages of the sites that its link names; nothing else may stand anywhere.
  app.get<{ Params: { address: string } }>('/embed/:address', async ({ params }, reply) => {
    const frames = await findFrames(params.address);
    const policy = String(reply.getHeader('content-security-policy') ?? '');
    if (frames.length > 0) {
      reply.header('content-security-policy', policy.replace("frame-ancestors 'none'", `frame-ancestors ${frames.join(' ')}`));
      reply.removeHeader('x-frame-options');
      reply.removeHeader('cross-origin-opener-policy');
    }
    return reply.type('text/html; charset=utf-8').header('cache-control', 'no-cache').send(html);
  });
  app.get('/*', async (request, reply) => {
    if (/^\/(api|assets)(\/|$)/.test(request.url)) return reply.callNotFound();
    return reply.type('text/html; charset=utf-8').header('cache-control', 'no-cache').send(html);
  });
}
