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
