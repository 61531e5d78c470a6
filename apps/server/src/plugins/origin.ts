import type { FastifyInstance } from 'fastify';
import { ProblemError } from '../problem.ts';

const SAFE = new Set(['GET', 'HEAD', 'OPTIONS']);

/**
 * Refuses changes that a browser sends from another site, by `Sec-Fetch-Site` and `Origin`; beside strict same-site
 * cookies and JSON-only bodies the guard against forged requests. Programs without a browser send neither header.
 */
export function guardOrigin(app: FastifyInstance): void {
  app.addHook('onRequest', async (request) => {
    if (SAFE.has(request.method)) return;
    const site = request.headers['sec-fetch-site'];
    if (typeof site === 'string' && site !== 'same-origin' && site !== 'none') throw new ProblemError('request/foreign-origin');
    const { origin } = request.headers;
    if (typeof origin === 'string' && !isOwn(origin, request.headers.host)) throw new ProblemError('request/foreign-origin');
  });
}

const isOwn = (origin: string, host: string | undefined): boolean => URL.canParse(origin) && new URL(origin).host === host;
