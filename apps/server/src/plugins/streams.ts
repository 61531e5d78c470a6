import type { ServerResponse } from 'node:http';
import type { FastifyReply } from 'fastify';

const STREAM_HEADERS = {
  'content-type': 'text/event-stream; charset=utf-8',
  'cache-control': 'no-store',
  'x-accel-buffering': 'no',
};

/** How often it is looked whether whoever reads a stream may still read it. */
export const LOOKED_AFTER_MS = 10_000;

/**
 * Keeps an answer open for server-sent events; whoever has it writes and ends it. It also ends by itself, within ten seconds,
 * when the session it was opened in is over, or its member has other roles or is gone. While the database is away it stays open.
 */
export function openStream(reply: FastifyReply): ServerResponse {
  const { raw, request, server } = reply;
  reply.hijack();
  raw.writeHead(200, { ...STREAM_HEADERS, ...(reply.getHeaders() as Record<string, string>) });
  const look = (): void => {
    server.isStillSignedIn(request).then(
      (isStill) => {
        if (!isStill) raw.end();
      },
      (error: Error) => request.log.warn({ message: error.message }, 'it isn’t known whether a stream may go on'),
    );
  };
  // A server-sent event may be written after the stream was ended and before its connection is closed. Node reports that as an
  // `error` event, which would end the process if nothing listened to it.
  raw.on('error', (error) => request.log.debug({ message: error.message }, 'a stream was written to after its end'));
  const timer = setInterval(look, LOOKED_AFTER_MS).unref();
  raw.once('close', () => clearInterval(timer));
  return raw;
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
