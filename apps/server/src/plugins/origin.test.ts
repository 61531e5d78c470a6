import { describe, expect, test } from '@jest/globals';
import Fastify from 'fastify';
import { ProblemError } from '../problem.ts';
import { guardOrigin } from './origin.ts';

/** What a server at an address answers: the code of its refusal, or `taken`. */
async function answerOf(
  config: { readonly address: string | null; readonly isSecure: boolean },
  headers: Readonly<Record<string, string>>,
  method: 'GET' | 'POST' = 'POST',
  url = '/',
): Promise<string> {
  const app = Fastify();
  guardOrigin(app, config);
  for (const path of ['/', '/api/health']) app.route({ method: ['GET', 'POST'], url: path, handler: async () => 'taken' });
  app.setErrorHandler((error, _request, reply) => reply.send(error instanceof ProblemError ? error.problem.code : String(error)));
  const { body } = await app.inject({ method, url, headers });
  await app.close();
  return body;
}

const PUBLIC = { address: 'https://records.example', isSecure: true };

describe('requests that name a host', () => {
  test.each([
    ['records.example', 'taken'],
    ['Records.Example', 'taken'],
    ['localhost:4180', 'taken'],
    ['127.0.0.1:4180', 'taken'],
    ['[::1]:4180', 'taken'],
    ['elsewhere.example', 'request/wrong-host'],
    ['records.example.elsewhere.example', 'request/wrong-host'],
    ['127.0.0.1.elsewhere.example', 'request/wrong-host'],
    ['10.0.0.7', 'request/wrong-host'],
  ])('%s: %s, reading and writing', async (host, expected) => {
    expect(await answerOf(PUBLIC, { host }, 'GET')).toBe(expected);
    expect(await answerOf(PUBLIC, { host })).toBe(expected);
  });

  test.each([null, 'http://0.0.0.0:4180', 'http://[::]:4180'])('a server whose address is %s takes any', async (address) => {
    expect(await answerOf({ address, isSecure: false }, { host: '10.0.0.7:4180' })).toBe('taken');
  });
});

test('health is told by any name: whoever watches over processes asks each by its own address', async () => {
  expect(await answerOf(PUBLIC, { host: '10.0.0.7' }, 'GET', '/api/health')).toBe('taken');
});

describe('changes that a browser sends', () => {
  test.each([
    ['https://records.example', 'taken'],
    ['http://records.example', 'request/foreign-origin'],
    ['https://elsewhere.example', 'request/foreign-origin'],
    ['null', 'request/foreign-origin'],
  ])('from %s: %s', async (origin, expected) => {
    expect(await answerOf(PUBLIC, { host: 'records.example', origin })).toBe(expected);
    expect(await answerOf(PUBLIC, { host: 'records.example', origin }, 'GET')).toBe('taken');
  });

  test('without TLS the scheme isn’t known, and the host counts', async () => {
    const open = { address: 'http://records.example', isSecure: false };
    for (const origin of ['https://records.example', 'http://records.example'])
      expect(await answerOf(open, { host: 'records.example', origin })).toBe('taken');
  });
});
