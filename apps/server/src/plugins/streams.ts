import type { ServerResponse } from 'node:http';
import type { FastifyReply } from 'fastify';

const STREAM_HEADERS = {
  'content-type': 'text/event-stream; charset=utf-8',
  'cache-control': 'no-store',
  'x-accel-buffering': 'no',
};

/** Keeps an answer open for server-sent events; whoever has it writes and ends it. */
export function openStream(reply: FastifyReply): ServerResponse {
  reply.hijack();
  reply.raw.writeHead(200, { ...STREAM_HEADERS, ...(reply.getHeaders() as Record<string, string>) });
  return reply.raw;
}

/** An answer that stays open. */
export type Stream = {
  readonly write: (text: string) => unknown;
  readonly end: () => unknown;
  readonly writableLength: number;
};

/** Writes to those of the watchers that are meant. Whoever doesn't read, so that more than a bound waits for them, is let go. */
export function sendTo<W extends { readonly stream: Stream }>(
  watchers: Set<W>,
  isMeant: (watcher: W) => boolean,
  text: string,
  maxBufferedBytes: number,
): void {
  for (const watcher of watchers) {
    if (!isMeant(watcher)) continue;
    if (watcher.stream.writableLength > maxBufferedBytes) {
      watchers.delete(watcher);
      watcher.stream.end();
    } else watcher.stream.write(text);
  }
}
