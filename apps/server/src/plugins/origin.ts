import { OPERATIONS } from '@ypomet/contract/operations';
import type { FastifyInstance } from 'fastify';
import type { Config } from '../config.ts';
import { ProblemError } from '../problem.ts';

const SAFE = new Set(['GET', 'HEAD', 'OPTIONS']);
/** Names by which a machine reaches itself. */
const LOOPBACK = /^(localhost|127(\.\d{1,3}){3}|\[::1\])(:\d{1,5})?$/i;
/** An address that means every one of the machine's. */
const ANY = /^(0\.0\.0\.0|\[::\])(:\d{1,5})?$/;

/**
 * Refuses requests that name another host than the configured one, or this machine (a page of another site whose name was made
 * to lead here sends its own name), and changes that a browser sends from another site, by `Sec-Fetch-Site` and `Origin`; beside
 * strict same-site cookies and JSON-only bodies the guard against forged requests. Programs without a browser send neither
 * header. Codes: `request/wrong-host`, `request/foreign-origin`.
 */
export function guardOrigin(app: FastifyInstance, { address, isSecure }: Pick<Config, 'address' | 'isSecure'>): void {
  const known = address === null ? null : new URL(address).host;
  const isOwnHost = (host: string): boolean => known === null || ANY.test(known) || host === known || LOOPBACK.test(host);
  const isOwnOrigin = (origin: string, host: string | undefined): boolean => {
    if (!URL.canParse(origin)) return false;
    const { host: from, protocol } = new URL(origin);
    return from === host && (!isSecure || protocol === 'https:');
  };
  app.addHook('onRequest', async (request) => {
    const { host, origin } = request.headers;
    // Monitoring asks each process for its health by the process's own address, so any host name is accepted there.
    const isHealth = request.url === OPERATIONS.health.path;
    if (host !== undefined && !isHealth && !isOwnHost(host.toLowerCase())) throw new ProblemError('request/wrong-host');
    if (SAFE.has(request.method)) return;
    const site = request.headers['sec-fetch-site'];
    if (typeof site === 'string' && site !== 'same-origin' && site !== 'none') throw new ProblemError('request/foreign-origin');
    if (typeof origin === 'string' && !isOwnOrigin(origin, host)) throw new ProblemError('request/foreign-origin');
  });
}
