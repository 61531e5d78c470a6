import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { isUnavailable } from './db/database.ts';
import { FAILURES_PER_ADDRESS, FREE_FAILURES, SignInGuard } from './modules/members/sign-in-guard.ts';
import { cookiesOf, problemOf, TestServer } from './testing/test-server.ts';

const INES = 'ines@lindenmuseum.invalid';
const PASSWORD = 'museum-loans';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.make();
});
afterAll(() => server.close());

/** Tries to sign in from an address. */
async function signIn(email: string, password: string, remoteAddress: string, cookie = '') {
  const answer = await server.server.app.inject({
    method: 'POST',
    url: '/api/session',
    remoteAddress,
    headers: { 'content-type': 'application/json', cookie },
    payload: JSON.stringify({ email, password }),
  });
  return { status: answer.statusCode, headers: answer.headers, body: answer.json() };
}
const forgetLimits = () => server.server.context.database.pool.query('delete from limits');

// OWASP API Security Top 10 (2023), API2: guessing credentials.
describe('guessing passwords', () => {
  test('an address may fail ten times a minute, whatever accounts it tries', async () => {
    await forgetLimits();
    const statuses: number[] = [];
    for (let index = 0; index < FAILURES_PER_ADDRESS + 3; index++)
      statuses.push((await signIn(`nobody${index}@lindenmuseum.invalid`, 'x', '203.0.113.1')).status);
    expect(statuses).toEqual([...Array(FAILURES_PER_ADDRESS).fill(401), 429, 429, 429]);
    const refused = await signIn(INES, PASSWORD, '203.0.113.1');
    expect([problemOf(refused).code, Number(refused.headers['retry-after']) <= 60]).toEqual(['request/too-many', true]);
    expect((await signIn(INES, PASSWORD, '203.0.113.2')).status).toBe(200);
  });

  test('many at once are counted like many in turn', async () => {
    await forgetLimits();
    const tries = Array.from({ length: 40 }, (_, index) => signIn(`nobody${index}@lindenmuseum.invalid`, 'x', '203.0.113.3'));
    const statuses = (await Promise.all(tries)).map(({ status }) => status);
    // A few are under way together when the tenth failure is counted.
    expect(statuses.filter((status) => status === 401).length).toBeLessThanOrEqual(FAILURES_PER_ADDRESS + 3);
    expect(statuses.filter((status) => status === 429).length).toBeGreaterThanOrEqual(27);
  });

  test('an account pauses, for longer each time, wherever the tries come from', async () => {
    await forgetLimits();
    const guess = (index: number) => signIn(INES, 'x', `203.0.113.${100 + index}`);
    for (let index = 0; index <= FREE_FAILURES; index++) expect((await guess(index)).status).toBe(401);
    const pauses: number[] = [];
    for (let index = 0; index < 4; index++) {
      const { rows } = await server.server.context.database.pool.query<{ left: number }>(
        `select (expire - extract(epoch from now()) * 1000)::float8 as left from limits where key like 'pause%'`,
      );
      pauses.push(Math.ceil((rows[0]?.left ?? 0) / 1000));
      await server.server.context.database.pool.query(`update limits set expire = expire + 60000 where key like 'pause%'`);
      const paused = await guess(20 + index);
      expect([paused.status, Number(paused.headers['retry-after']) > 50]).toEqual([429, true]);
      await server.server.context.database.pool.query(`delete from limits where key like 'pause%'`);
      expect((await guess(40 + index)).status).toBe(401);
    }
    expect(pauses).toEqual([1, 2, 4, 8]);
  });

  test('a stranger’s failures don’t lock out whoever signed in on this device before', async () => {
    await forgetLimits();
    const before = await signIn(INES, PASSWORD, '203.0.113.200');
    const device = cookiesOf(before)
      .split('; ')
      .find((cookie) => cookie.startsWith('ypomet_device='));
    for (let index = 0; index < 9; index++) await signIn(INES, 'x', `198.51.100.${index}`);
    expect((await signIn(INES, PASSWORD, '203.0.113.201')).status).toBe(429);
    expect((await signIn(INES, PASSWORD, '203.0.113.201', device)).status).toBe(200);
    // The device of somebody else is none of this account's.
    const other = cookiesOf(await signIn('rufus@lindenmuseum.invalid', PASSWORD, '203.0.113.202'));
    expect((await signIn(INES, PASSWORD, '203.0.113.201', other)).status).toBe(429);
  });

  test('strangers’ failures behind the same address don’t lock out a device that is known', async () => {
    await forgetLimits();
    const device = cookiesOf(await signIn(INES, PASSWORD, '203.0.113.210'))
      .split('; ')
      .find((cookie) => cookie.startsWith('ypomet_device='));
    for (let index = 0; index < FAILURES_PER_ADDRESS; index++)
      await signIn(`nobody${index}@lindenmuseum.invalid`, 'x', '203.0.113.211');
    expect((await signIn(INES, PASSWORD, '203.0.113.211')).status).toBe(429);
    expect((await signIn(INES, PASSWORD, '203.0.113.211', device)).status).toBe(200);
  });

  test('without a free connection it is a fault of the moment, and names nobody’s address', async () => {
    const full = { query: () => Promise.reject(new Error('timeout exceeded when trying to connect')), connect: () => null };
    const guard = new SignInGuard(full as never, 'secret');
    const attempt = guard.attempt({ address: '203.0.113.9', email: INES, device: undefined }, async () => null);
    const error = await attempt.then(
      () => null,
      (reason: unknown) => reason,
    );
    expect(isUnavailable(error)).toBe(true);
    expect(String(error)).not.toContain('203.0.113.9');
  });

  test('a right password makes what failed before it forgotten', async () => {
    await forgetLimits();
    for (let index = 0; index < FREE_FAILURES; index++) await signIn(INES, 'x', `192.0.2.${index}`);
    expect((await signIn(INES, PASSWORD, '192.0.2.50')).status).toBe(200);
    for (let index = 0; index < FREE_FAILURES; index++)
      expect((await signIn(INES, 'x', `192.0.2.${60 + index}`)).status).toBe(401);
    expect((await signIn(INES, PASSWORD, '192.0.2.51')).status).toBe(200);
  });
});
