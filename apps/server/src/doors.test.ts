import { connect } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { BODY_LIMITS, PART_LIMITS, RATES, ROUTES, type RouteName } from '@ypomet/contract';
import { makeObjectLoan } from './demo/object-loan.ts';
import { forgetOld } from './modules/housekeeping.ts';
import { measureJson } from './plugins/json.ts';
import { cookiesOf, eventually, loanRequest, objectRow, problemOf, TestServer } from './testing/test-server.ts';

// OWASP API Security Top 10 (2023), API4: unrestricted resource consumption.
let server: TestServer;
let port: number;
beforeAll(async () => {
  server = await TestServer.make();
  port = await server.listen();
});
afterAll(() => server.close());

/** Sends the head of a request and part of its body over a bare connection; what comes back until the server closes it. */
function sendPart(head: string, part = ''): { readonly answer: Promise<string>; readonly end: () => void } {
  const socket = connect(port, '127.0.0.1');
  socket.write(`${head}\r\nhost: 127.0.0.1\r\n\r\n${part}`);
  const answer = new Promise<string>((resolve) => {
    let text = '';
    socket.setEncoding('utf8').on('data', (chunk: string) => {
      text += chunk;
      if (/\r\n\r\n[\s\S]+/.test(text)) resolve(text);
    });
    socket.once('close', () => resolve(text));
    socket.once('error', () => resolve(text));
  });
  return { answer, end: () => socket.destroy() };
}

const withBody = (Object.keys(ROUTES) as RouteName[]).filter(
  (name) => ['POST', 'PUT'].includes(ROUTES[name].method) && ROUTES[name].access !== 'public',
);
const pathOf = (name: RouteName): string =>
  ROUTES[name].path
    .replace(':key', 'objectLoan')
    .replace(':stage', 'request')
    .replace(':number', '1')
    .replace(':id', '00000000-0000-4000-8000-000000000000');

describe('who asks is settled before a body is read', () => {
  test.each(withBody)('%s answers 401 while its body is still to come', async (name) => {
    const { method } = ROUTES[name];
    const { answer, end } = sendPart(
      `${method} ${pathOf(name)} HTTP/1.1\r\ncontent-type: application/json\r\ncontent-length: 3800000\r\nif-match: "1"`,
      '{"edits":[',
    );
    expect(await answer).toMatch(/^HTTP\/1\.1 401 /);
    end();
  });

  test('malformed edits of 3.8 MB without a session keep nobody waiting', async () => {
    const analyst = await server.as('analyst');
    const edits = JSON.stringify({ edits: Array.from({ length: 100_000 }, () => ({ type: 'none', at: [1, 2, 3] })) });
    const [refused, served] = await Promise.all([
      server.anybody('POST', '/api/workflows/objectLoan/draft/edits', edits, { 'if-match': '"1"' }),
      analyst('GET', '/api/session'),
    ]);
    expect([refused.status, served.status]).toEqual([401, 200]);
  });
});

describe('how large', () => {
  test('a body is small unless its route needs more', async () => {
    const large = JSON.stringify({ email: 'a'.repeat(BODY_LIMITS.small), password: 'x' });
    expect(problemOf(await server.anybody('POST', '/api/session', large))).toMatchObject({
      status: 413,
      code: 'request/too-large',
    });
  });

  test.each([
    ['fields that the form hasn’t', (keys: object) => keys],
    ['cells that a row hasn’t', (keys: object) => ({ objects: [{ id: 'a', values: keys }] })],
  ])('a form with 70,000 %s is refused before any of them is looked for', async (_, around) => {
    const registrar = await server.as('registrar');
    const keys = Object.fromEntries(Array.from({ length: 70_000 }, (_one, index) => [`k${index}`, 1]));
    for (const [method, path, body] of [
      ['POST', '/api/intakes/objectLoan/request/form', { values: around(keys) }],
      ['POST', '/api/intakes/objectLoan/records', { stage: 'request', handOff: 'submit', values: around(keys) }],
      ['PUT', '/api/unfinished/intake.objectLoan.request', { content: { entered: around(keys) } }],
    ] as const) {
      const answer = await registrar(method, path, body, { 'if-match': '"0"' });
      expect(problemOf(answer)).toMatchObject({ status: 413, code: 'request/too-large' });
    }
  });

  test('a body of more parts than a member sends isn’t parsed', async () => {
    const registrar = await server.as('registrar');
    const rows = Array.from({ length: PART_LIMITS.member }, () => 1);
    const answer = await registrar('POST', '/api/intakes/objectLoan/request/form', { values: { objects: rows } });
    expect(problemOf(answer)).toMatchObject({ status: 413, code: 'request/too-large' });
  });

  test.each([
    ['{}', 0],
    ['{"a":1,"b":[1,2,3]}', 5],
    ['{"a":"x,y:z","b":"\\",\\"","c":"\\\\"}', 5],
    ['["\\\\\\",:",1]', 1],
    ['["never ended,,,,', 0],
    ['', 0],
  ])('the parts of %s are %d', (text, parts) => {
    expect(measureJson(text).parts).toBe(parts);
  });

  test('one that says it is too large is refused by its head', async () => {
    const { answer, end } = sendPart('POST /api/session HTTP/1.1\r\ncontent-type: application/json\r\ncontent-length: 99000000');
    expect(await answer).toMatch(/^HTTP\/1\.1 413 /);
    end();
  });

  test('of ten thousand things wrong with a definition a hundred are named', async () => {
    const analyst = await server.as('analyst');
    const definition = {
      ...makeObjectLoan(),
      key: 'broken',
      fields: Array.from({ length: 1000 }, () => ({ type: 'text', key: '1', name: '', more: 1 })),
    };
    // A server that is too busy to read it says so, and is asked again.
    const answer = await eventually(
      () => analyst('POST', '/api/workflows', definition),
      ({ status }) => status !== 503,
    );
    expect([answer.status, answer.body.details.length]).toEqual([400, 100]);
  });

  test.each([
    ['150,000 unknown keys in a form are too many', 150_000, 413, 0],
    ['of a thousand a hundred are named, without a suggestion', 1000, 422, 100],
  ])('%s', async (_name, count, status, named) => {
    const borrower = await server.as('borrower');
    const values = Object.fromEntries(Array.from({ length: count }, (_, index) => [`borrowe${index}`, 1]));
    const answer = await borrower('POST', '/api/intakes/objectLoan/records', { stage: 'request', handOff: 'submit', values });
    expect([answer.status, answer.body.details.length]).toEqual([status, named]);
    expect(JSON.stringify(answer.body).length).toBeLessThan(50_000);
    expect(JSON.stringify(answer.body)).not.toMatch(/did you mean|perhaps/i);
  });
});

test('how often: questions to a form are counted for each member', async () => {
  const [borrower, other] = [await server.as('borrower'), await server.as('other')];
  const ask = (call: typeof borrower) => call('POST', '/api/intakes/objectLoan/request/form', { values: {} });
  const statuses = new Map<number, number>();
  for (let index = 0; index < RATES.questions + 5; index++) {
    const { status } = await ask(borrower);
    statuses.set(status, (statuses.get(status) ?? 0) + 1);
  }
  expect(statuses.get(429)).toBe(5);
  const refused = await ask(borrower);
  expect([problemOf(refused).code, Number(refused.headers['retry-after']) > 0]).toEqual(['request/too-many', true]);
  expect((await ask(other)).status).not.toBe(429);
});

test('a body nested a million deep is malformed', async () => {
  const borrower = await server.as('borrower');
  const deep = `{"stage":"request","handOff":"submit","values":{"borrower":${'['.repeat(1_000_000)}${']'.repeat(1_000_000)}}}`;
  expect(problemOf(await borrower('POST', '/api/intakes/objectLoan/records', deep))).toMatchObject({
    status: 400,
    code: 'request/malformed',
  });
});

describe('texts that no database can hold are refused where they stand', () => {
  const NUL = 'a\u0000b';
  const HALF = 'a\\ud800b';
  test.each([
    ['an e-mail address at sign-in', 'POST', '/api/session', (text: string) => `{"email":"${text}","password":"x"}`, 'email'],
    [
      'a field of a form',
      'POST',
      '/api/intakes/objectLoan/records',
      (text: string) => `{"stage":"request","handOff":"submit","values":{"borrower":"${text}"}}`,
      'values.borrower',
    ],
  ] as const)('%s', async (_name, method, url, make, path) => {
    const borrower = await server.as('borrower');
    for (const text of [JSON.stringify(NUL).slice(1, -1), HALF]) {
      const answer = await borrower(method, url, make(text));
      expect(problemOf(answer)).toMatchObject({ status: 400, code: 'request/unfit-text' });
      expect(JSON.stringify(answer.body)).toContain(path);
    }
  });

  test('a draft’s description, as a file and as an edit', async () => {
    const analyst = await server.as('analyst');
    const draft = { ...makeObjectLoan(), description: NUL };
    const answer = await analyst('PUT', '/api/workflows/objectLoan/draft', draft, { 'if-match': '"1"' });
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(answer.status).toBeLessThan(500);
    expect(JSON.stringify(answer.body)).toContain('description');
    expect((await analyst('GET', '/api/workflows/objectLoan/draft')).status).toBe(200);
  });
});

test.each([
  ['/api/deliveries?after=%00', 'request/unfit-text'],
  ['/api/deliveries?after=eyJhIjoxfQ', 'request/invalid'],
  ['/api/desk?after=%F0%9F%98%80', 'request/invalid'],
  ['/api/desk?after=bnVsbA', 'request/invalid'],
])('a damaged cursor is a problem: %s', async (url, code) => {
  const answer = await (await server.as('analyst'))('GET', url);
  expect([answer.status, answer.body.code]).toEqual([400, code]);
});

test.each(['/%zz', '/api/records/%ff', '/assets/%00', '/assets//x', '/api//workflows', `/api/records/${'a'.repeat(500)}`])(
  'a bad address is a problem document: %s',
  async (url) => {
    const answer = await server.anybody('GET', url);
    expect([400, 401, 404, 414]).toContain(answer.status);
    expect(answer.headers['content-type']).toContain('application/problem+json');
  },
);

describe('answers', () => {
  test('of the API are kept nowhere, also refusals', async () => {
    for (const [call, url] of [
      [server.anybody, '/api/health'],
      [server.anybody, '/api/desk'],
      [await server.as('borrower'), '/api/desk'],
    ] as const)
      expect((await call('GET', url)).headers['cache-control']).toBe('no-store');
  });

  test('signing out takes the cookie away', async () => {
    const borrower = await server.as('borrower');
    const answer = await borrower('DELETE', '/api/session');
    expect(String(answer.headers['set-cookie'])).toMatch(/ypomet_session=;.*(Max-Age=0|Expires=Thu, 01 Jan 1970)/);
  });
});

test('a half-sent request doesn’t keep the server from stopping', async () => {
  const own = await TestServer.make();
  const ownPort = await own.listen();
  const cookie = cookiesOf(
    await own.anybody('POST', '/api/session', { email: 'ines@lindenmuseum.invalid', password: 'museum-loans' }),
  );
  const socket = connect(ownPort, '127.0.0.1');
  socket.on('error', () => undefined);
  socket.write(
    `PUT /api/workflows/objectLoan/draft HTTP/1.1\r\nhost: 127.0.0.1\r\ncookie: ${cookie}\r\nif-match: "1"\r\ncontent-type: application/json\r\ncontent-length: 9000\r\n\r\n{`,
  );
  await new Promise((resolve) => setTimeout(resolve, 200));
  const isClosed = new Promise<boolean>((resolve) => socket.once('close', () => resolve(true)));
  await own.close();
  expect(await isClosed).toBe(true);
}, 30_000);

describe('when the server isn’t a demo', () => {
  test('its members can’t sign in, nor go on with the sessions they had, and HTTPS is asked for', async () => {
    const own = await TestServer.make({ isDemo: false, isSecure: true });
    const credentials = { email: 'ines@lindenmuseum.invalid', password: 'museum-loans' };
    const seeded = server.server.context.database.pool;
    const { rows } = await seeded.query(`select id, name, email, roles, password_hash from members where email = $1`, [
      credentials.email,
    ]);
    await own.server.context.database.pool.query(
      `insert into members (id, name, email, roles, password_hash) values ($1, $2, $3, $4, $5)`,
      [rows[0].id, rows[0].name, rows[0].email, rows[0].roles, rows[0].password_hash],
    );
    const answer = await own.anybody('POST', '/api/session', credentials);
    expect(problemOf(answer)).toMatchObject({ status: 401, code: 'session/wrong-credentials' });
    expect(answer.headers['strict-transport-security']).toMatch(/^max-age=\d{8}/);
    expect((await server.anybody('GET', '/api/health')).headers['strict-transport-security']).toBeUndefined();
    await own.close();
  });
});

test('what has run out is forgotten', async () => {
  const { pool } = server.server.context.database;
  const borrower = await server.as('borrower');
  await borrower(
    'POST',
    '/api/intakes/objectLoan/records',
    { stage: 'request', handOff: 'submit', values: loanRequest(objectRow('a', 'A', 'paper', '1.00')) },
    { 'idempotency-key': 'kept-for-a-while' },
  );
  const count = async (): Promise<number> =>
    Number((await pool.query(`select count(*) from answered_requests where key = 'kept-for-a-while'`)).rows[0].count);
  expect(await count()).toBe(1);
  await forgetOld(pool, server.server.context.files);
  expect(await count()).toBe(1);
  await pool.query(`update answered_requests set at = now() - interval '49 hours' where key = 'kept-for-a-while'`);
  await pool.query(`update sessions set expires_at = now() - interval '1 second'`);
  await forgetOld(pool, server.server.context.files);
  expect(await eventually(count, (found) => found === 0)).toBe(0);
  expect((await pool.query('select count(*) from sessions')).rows[0].count).toBe('0');
});
