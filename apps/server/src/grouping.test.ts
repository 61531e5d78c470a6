import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { groupRequests } from './db/grouping.ts';
import { eventually, loanRequest, objectRow, TestServer } from './testing/test-server.ts';

const pause = (): Promise<void> => new Promise((resolve) => setImmediate(resolve));

describe('requests that come in together', () => {
  test('each gets its own answer, whatever group it was in', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(fc.integer(), fc.nat({ max: 3 })), { maxLength: 60 }), async (items) => {
        const ask = groupRequests<number, number>(async (numbers) => {
          await pause();
          return numbers.map((number) => (number % 7 === 0 ? new Error(`no ${number}`) : number * 2));
        });
        const answers: Promise<number | string>[] = [];
        for (const [number, wait] of items) {
          for (let index = 0; index < wait; index++) await pause();
          answers.push(ask(number).catch((error: Error) => error.message));
        }
        const expected = items.map(([number]) => (number % 7 === 0 ? `no ${number}` : number * 2));
        expect(await Promise.all(answers)).toEqual(expected);
      }),
      { numRuns: 50 },
    );
  });

  test('what comes in while a group is under way goes into the next', async () => {
    const sizes: number[] = [];
    const ask = groupRequests<number, number>(async (numbers) => {
      sizes.push(numbers.length);
      await new Promise((resolve) => setTimeout(resolve, 20));
      return numbers;
    });
    const first = ask(0);
    await new Promise((resolve) => setTimeout(resolve, 5));
    await Promise.all([first, ...[1, 2, 3, 4].map(ask)]);
    expect(sizes).toEqual([1, 4]);
  });

  test('no group is larger than its bound', async () => {
    const sizes: number[] = [];
    const ask = groupRequests<number, number>(async (numbers) => {
      sizes.push(numbers.length);
      return numbers;
    }, 10);
    await Promise.all(Array.from({ length: 35 }, (_, index) => ask(index)));
    expect(Math.max(...sizes)).toBe(10);
  });

  test('a group that fails whole fails each of it, and the next runs', async () => {
    let isBroken = true;
    const ask = groupRequests<number, number>(async (numbers) => {
      if (isBroken) throw new Error('broken');
      return numbers;
    });
    const failed = await Promise.allSettled([ask(1), ask(2)]);
    expect(failed.map(({ status }) => status)).toEqual(['rejected', 'rejected']);
    isBroken = false;
    expect(await ask(3)).toBe(3);
  });
});

describe('hand-offs that come in together', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.make();
  });
  afterAll(() => server.close());

  const REQUEST = loanRequest(objectRow('a', 'Tide clock', 'metal', '44000.00'));

  type Try = { readonly record: number; readonly isStale: boolean; readonly key: number | null };
  const tries = fc.array(fc.record({ record: fc.nat({ max: 4 }), isStale: fc.boolean(), key: fc.option(fc.nat({ max: 2 })) }), {
    minLength: 5,
    maxLength: 40,
  });

  test('each record is handed on at most once, with one event for it, whatever else is in its group', async () => {
    const { pool } = server.server.context.database;
    const [borrower, registrar] = await Promise.all([server.as('borrower'), server.as('registrar')]);
    let run = 0;
    const seen = { acted: 0, stale: 0 };
    await fc.assert(
      fc.asyncProperty(tries, async (list: readonly Try[]) => {
        run += 1;
        const begun = await Promise.all(
          Array.from({ length: 5 }, () =>
            borrower('POST', '/api/intakes/objectLoan/records', { stage: 'request', handOff: 'submit', values: REQUEST }),
          ),
        );
        const ids = begun.map(({ status, body }) => (status === 201 ? String(body.record.id) : ''));
        expect(new Set(ids).size).toBe(5);
        const answers = await Promise.all(
          list.map(async ({ record, isStale, key }) => {
            const headers = {
              'if-match': isStale ? '"9"' : '"1"',
              ...(key === null ? {} : { 'idempotency-key': `run-${run}-key-${record}-${key}` }),
            };
            const answer = await registrar(
              'POST',
              `/api/records/${ids[record]}/hand-offs`,
              { handOff: 'accept', values: {} },
              headers,
            );
            return { record, isStale, key, status: answer.status, code: answer.body.code };
          }),
        );
        for (const answer of answers) expect([200, 412]).toContain(answer.status);
        const { rows } = await pool.query<{ id: string; revision: number; events: number }>(
          `select r.id, r.revision, (select count(*)::int from record_events e where e.record = r.id) as events
           from records r where r.id = any($1)`,
          [ids],
        );
        for (const [index, id] of ids.entries()) {
          const own = answers.filter(({ record }) => record === index);
          const acted = own.some(({ status }) => status === 200);
          const row = rows.find((one) => one.id === id);
          expect([row?.revision, row?.events]).toEqual(acted ? [2, 2] : [1, 1]);
          // Without a key only one request can have acted; with a key its repeats answer the same.
          const distinct = new Set(
            own.filter(({ status }) => status === 200).map(({ key }, at) => (key === null ? `only ${at}` : `key ${key}`)),
          );
          expect(distinct.size).toBeLessThanOrEqual(1);
          // One that names the present revision acts, whatever else comes at the same time; stale ones alone never do.
          expect(acted).toBe(own.some(({ isStale }) => !isStale));
          if (own.length > 0) seen[acted ? 'acted' : 'stale'] += 1;
        }
      }),
      { numRuns: 12 },
    );
    // Both were seen.
    expect(Math.min(seen.acted, seen.stale)).toBeGreaterThan(2);
  });

  test('a connection that breaks in the middle leaves nothing half done', async () => {
    const { pool } = server.server.context.database;
    const [borrower, registrar] = await Promise.all([server.as('borrower'), server.as('registrar')]);
    const begun = await Promise.all(
      Array.from({ length: 20 }, () =>
        borrower('POST', '/api/intakes/objectLoan/records', { stage: 'request', handOff: 'submit', values: REQUEST }),
      ),
    );
    const ids = begun.map(({ body }) => String(body.record.id));
    const handOns = Promise.all(
      ids.map((id) =>
        registrar('POST', `/api/records/${id}/hand-offs`, { handOff: 'accept', values: {} }, { 'if-match': '"1"' }),
      ),
    );
    await pool.query(
      `select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()`,
    );
    const answers = await handOns;
    // Broken connections leave the pool when they are next used.
    await eventually(
      () =>
        pool.query('select 1').then(
          () => true,
          () => false,
        ),
      (isUp) => isUp,
    );
    const { rows } = await pool.query<{ id: string; revision: number; events: number }>(
      `select r.id, r.revision, (select count(*)::int from record_events e where e.record = r.id) as events from records r where r.id = any($1)`,
      [ids],
    );
    for (const [index, id] of ids.entries()) {
      const row = rows.find((one) => one.id === id);
      expect(row?.events).toBe(row?.revision);
      if (answers[index]?.status === 200) expect(row?.revision).toBe(2);
    }
    // Whoever was refused can try again: nothing stands in the way.
    const again = await Promise.all(
      ids
        .filter((id) => rows.find((one) => one.id === id)?.revision === 1)
        .map((id) => registrar('POST', `/api/records/${id}/hand-offs`, { handOff: 'accept', values: {} }, { 'if-match': '"1"' })),
    );
    expect(again.every(({ status }) => status === 200)).toBe(true);
    // The queue lost its connections too, and goes on.
    await eventually(
      async () => (await pool.query(`select count(*)::int as n from deliveries where status <> 'sent'`)).rows[0].n,
      (waiting) => waiting === 0,
      40,
    );
  });
});
