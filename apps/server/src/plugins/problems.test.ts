import { expect, test } from '@jest/globals';
import Fastify from 'fastify';
import { serializerCompiler, validatorCompiler } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { answerWithProblems } from './problems.ts';

test('an answer that its own schema refuses is a fault, logged with its route and the place, without values', async () => {
  const lines: string[] = [];
  const app = Fastify({ logger: { level: 'error', stream: { write: (line: string) => void lines.push(line) } } });
  app.setValidatorCompiler(validatorCompiler);
  app.setSerializerCompiler(serializerCompiler);
  answerWithProblems(app);
  const response = z.object({ ways: z.array(z.object({ from: z.string() })) });
  app.get('/registers/:key', { schema: { response: { 200: response } } }, async () => ({ ways: [{ from: 12_345 }] }) as never);
  const answer = await app.inject('/registers/loans');
  expect([answer.statusCode, answer.json().code]).toEqual([500, 'server/fault']);
  expect(answer.body).not.toContain('12345');
  const [line = ''] = lines;
  expect(JSON.parse(line).unfit).toEqual({ method: 'GET', url: '/registers/:key', paths: ['ways.0.from'] });
  expect(line).not.toContain('12345');
  await app.close();
});

test.each([
  [
    'of PostgreSQL',
    Object.assign(new Error('could not extend file "base/16384/2619": No space left on device'), { code: '53100' }),
  ],
  ['of the machine', Object.assign(new Error('ENOSPC: no space left on device, write /srv/data/files/x'), { code: 'ENOSPC' })],
])('a full disk %s is told in a sentence, without insides', async (_, error) => {
  const app = Fastify();
  answerWithProblems(app);
  app.get('/', async () => Promise.reject(error));
  const answer = await app.inject('/');
  expect([answer.statusCode, answer.json().code]).toEqual([507, 'server/no-room']);
  expect(answer.body).not.toMatch(/base|srv|device/);
  await app.close();
});
