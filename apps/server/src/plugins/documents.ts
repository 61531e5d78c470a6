import { createHash } from 'node:crypto';
import { promisify } from 'node:util';
import { brotliCompress, gzip } from 'node:zlib';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';

type Kept = { readonly tag: string; readonly text: Buffer; readonly br: Buffer; readonly gzip: Buffer };

const [toBrotli, toGzip] = [promisify(brotliCompress), promisify(gzip)];
/** Requests for documents that one address may send a minute. */
const A_MINUTE = 60;

/**
 * Serves a document that is the same for everybody as long as the server runs, such as the description of the API. It is made,
 * written and compressed once, when somebody first asks for it: making it takes tens of milliseconds, and compressing it more.
 */
export function serveDocument(app: FastifyInstance, url: string, make: () => object): void {
  let kept: Promise<Kept> | null = null;
  const keep = async (): Promise<Kept> => {
    const text = Buffer.from(JSON.stringify(make()));
    const tag = `"${createHash('sha256').update(text).digest('base64url').slice(0, 22)}"`;
    const [br, zipped] = await Promise.all([toBrotli(text), toGzip(text)]);
    return { tag, text, br, gzip: zipped };
  };
  const answer = async (request: FastifyRequest, reply: FastifyReply): Promise<unknown> => {
    kept ??= keep();
    const document = await kept;
    const encoding = (['br', 'gzip'] as const).find((one) => (request.headers['accept-encoding'] ?? '').includes(one));
    reply.header('etag', document.tag).header('cache-control', 'no-cache').header('vary', 'accept-encoding');
    if (request.headers['if-none-match'] === document.tag) return reply.code(304).send();
    if (encoding) reply.header('content-encoding', encoding);
    return reply.type('application/json; charset=utf-8').send(encoding ? document[encoding] : document.text);
  };
  app.route({
    method: 'GET',
    url,
    onRequest: [app.rateLimit({ max: A_MINUTE, timeWindow: 60_000 }) as never],
    // The compression plugin skips answers that already have a Content-Encoding, as these do.
    handler: answer,
  });
}
