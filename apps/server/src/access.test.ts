import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { PROBLEM_STATUS, ROUTES, type RouteName } from '@ypomet/contract';
import Ajv2020 from 'ajv/dist/2020.js';
import { type Call, cookiesOf, problemOf, TestServer } from './testing/test-server.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.make();
});
afterAll(() => server.close());

const names = Object.keys(ROUTES) as readonly RouteName[];
const NOBODYS_ID = '00000000-0000-4000-8000-000000000000';

/** A path of a route with things that aren't there. */
const pathOf = (name: RouteName): string =>
  ROUTES[name].path
    .replace(/:key|\{key\}/, 'objectLoan')
    .replace(/:stage|\{stage\}/, 'request')
    .replace(/:number|\{number\}/, '1')
    .replace(/:id|\{id\}/, NOBODYS_ID);

const callRoute = (call: Call, name: RouteName) => {
  const { method } = ROUTES[name];
  return call(method, pathOf(name), method === 'GET' ? undefined : {}, { 'if-match': '"1"' });
};

// OWASP API Security Top 10 (2023): API1 broken object level authorisation, API2 broken authentication, API5 broken
// function level authorisation, checked for every operation of the contract.
describe('every operation asks who it is', () => {
  test.each(names.filter((name) => ROUTES[name].access !== 'public'))('%s needs a session', async (name) => {
    // What is sent is looked at only after who sends it, wherever there is something to look at.
    const answer = await callRoute(server.anybody, name);
    expect([401, 400]).toContain(answer.status);
    if (answer.status === 401) expect(problemOf(answer).code).toBe('session/none');
    else expect(JSON.stringify(answer.body)).not.toContain('objectLoan');
  });

  test.each(names.filter((name) => ROUTES[name].access === 'analyst'))('%s is for analysts', async (name) => {
    for (const who of ['borrower', 'registrar', 'director'] as const) {
      const answer = await callRoute(await server.as(who), name);
      expect([403, 400]).toContain(answer.status);
    }
  });

  test('a cookie that was tampered with is no session', async () => {
    const answer = await server.anybody('POST', '/api/session', { email: 'ines@lindenmuseum.invalid', password: 'museum-loans' });
    const cookie =
      cookiesOf(answer)
        .split('; ')
        .find((one) => one.startsWith('ypomet_session=')) ?? '';
    expect((await server.anybody('GET', '/api/session', undefined, { cookie })).status).toBe(200);
    for (const changed of [
      cookie.slice(0, -3),
      `${cookie}x`,
      cookie.replace('=', '=x'),
      'ypomet_session=',
      `ypomet_session=${'a'.repeat(9000)}`,
    ]) {
      expect((await server.anybody('GET', '/api/session', undefined, { cookie: changed })).status).toBe(401);
    }
  });

  test('a session that has run out is none', async () => {
    const answer = await server.anybody('POST', '/api/session', { email: 'ines@lindenmuseum.invalid', password: 'museum-loans' });
    const cookie =
      cookiesOf(answer)
        .split('; ')
        .find((one) => one.startsWith('ypomet_session=')) ?? '';
    await server.server.context.database.pool.query(`update sessions set expires_at = now() - interval '1 second'`);
    expect((await server.anybody('GET', '/api/session', undefined, { cookie })).status).toBe(401);
  });

  test('a member who lost a role has lost it with the next request', async () => {
    const { pool } = server.server.context.database;
    const other = await server.as('conservator');
    expect((await other('GET', '/api/desk')).status).toBe(200);
    const before = (await other('GET', '/api/session')).body.member.roles;
    await pool.query(`update members set roles = '{}' where email like 'carla@%'`);
    expect((await other('GET', '/api/session')).body.member.roles).toEqual([]);
    expect((await other('GET', '/api/desk')).body.entries).toEqual([]);
    await pool.query(`update members set roles = $1 where email like 'carla@%'`, [before]);
  });
});

describe('every problem has one shape', () => {
  const problemSchema = {
    type: 'object',
    required: ['type', 'title', 'status', 'code', 'detail', 'path', 'details'],
    properties: { status: { type: 'integer', minimum: 400, maximum: 599 }, details: { type: 'array' } },
  };
  const validate = new Ajv2020().compile(problemSchema);

  test.each<[string, string, string, unknown, Record<string, string>, number]>([
    ['an address that isn’t there', 'GET', '/api/nothing', undefined, {}, 404],
    ['a record that isn’t there', 'GET', `/api/records/${NOBODYS_ID}`, undefined, {}, 404],
    ['an id that is none', 'GET', '/api/records/1%20or%201=1', undefined, {}, 400],
    ['a workflow that isn’t there', 'POST', '/api/intakes/nothing/records', { stage: 's', handOff: 'h', values: {} }, {}, 404],
    ['a page that is none', 'GET', '/api/desk?limit=100000', undefined, {}, 400],
    ['a cursor that is none', 'GET', '/api/desk?after=nonsense', undefined, {}, 400],
    ['half of a JSON', 'POST', '/api/intakes/objectLoan/records', '{"stage":', {}, 400],
    ['no body', 'POST', '/api/intakes/objectLoan/records', '', {}, 400],
    ['a list for a body', 'POST', '/api/intakes/objectLoan/records', [], {}, 400],
    [
      'a key that is too short',
      'POST',
      '/api/intakes/objectLoan/records',
      { stage: 'request', handOff: 'submit', values: {} },
      { 'idempotency-key': 'x' },
      400,
    ],
    [
      'a hand-off of a record that isn’t there, whatever its revision',
      'POST',
      `/api/records/${NOBODYS_ID}/hand-offs`,
      { handOff: 'x', values: {} },
      { 'if-match': 'seven' },
      404,
    ],
  ])('%s', async (_, method, url, body, headers, status) => {
    const registrar = await server.as('registrar');
    const answer = await registrar(method as 'GET', url, body, headers);
    expect(answer.status).toBe(status);
    expect(String(answer.headers['content-type'])).toContain('application/problem+json');
    expect(validate(answer.body) ? [] : validate.errors).toEqual([]);
    expect(Object.keys(PROBLEM_STATUS)).toContain(answer.body.code);
    expect(PROBLEM_STATUS[answer.body.code as keyof typeof PROBLEM_STATUS]).toBe(status);
  });

  test('an answer says nothing of what stands behind it', async () => {
    const answer = await server.anybody('GET', '/api/nothing');
    expect(answer.headers['x-powered-by']).toBeUndefined();
    expect(JSON.stringify(answer.body)).not.toMatch(/fastify|postgres|\/src\//i);
    expect(answer.headers['content-security-policy']).toContain("default-src 'self'");
    expect(answer.headers['x-content-type-options']).toBe('nosniff');
  });
});
