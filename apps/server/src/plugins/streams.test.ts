import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { afterEach, expect, test } from '@jest/globals';
import Fastify, { type FastifyInstance } from 'fastify';
import { openStream, type Stream } from './streams.ts';

let app: FastifyInstance;
afterEach(() => app.close());

test('a stream that is written to after its end harms nothing', async () => {
  app = Fastify();
  app.decorate('isStillSignedIn', async () => true);
  const opened = new Promise<ReturnType<typeof openStream>>((resolve) => {
    app.get('/stream', (_request, reply) => resolve(openStream(reply)));
  });
  await app.listen({ port: 0, host: '127.0.0.1' });
  const answer = fetch(`http://127.0.0.1:${(app.server.address() as AddressInfo).port}/stream`);
  const stream = await opened;
  stream.write('data: 1\n\n');
  const failed = once(stream, 'error').catch((error: Error) => [error]);
  stream.end();
  const late: Stream = stream;
  late.write('data: 2\n\n');
  expect((await failed)[0]).toMatchObject({ code: 'ERR_STREAM_WRITE_AFTER_END' });
  expect(await (await answer).text()).toBe('data: 1\n\n');
  expect(stream.listenerCount('error')).toBeGreaterThan(0);
});
