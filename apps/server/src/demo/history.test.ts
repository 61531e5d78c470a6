import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { TestServer } from '../testing/test-server.ts';
import { seedDemo } from './seed.ts';

// The demo's two years of loans: made by the rules of their versions, written at once, none of it sent.
const NOW = Date.parse('2026-11-27T09:00:00Z');
let server: TestServer;
beforeAll(async () => {
  server = await TestServer.make({ hasHistory: true, clock: () => NOW });
});
afterAll(() => server.close());
const rows = async (text: string) => (await server.server.context.database.pool.query(text)).rows;

describe('the demo’s past', () => {
  test('has loans of both versions at every stage but the intake, most of them over', async () => {
    const [counts] = await rows(`select count(*)::int as all, count(*) filter (where version = 1)::int as first,
      count(*) filter (where version = 2)::int as second, count(*) filter (where stage_kind = 'end')::int as over
      from records where workflow = 'objectLoan'`);
    expect(counts.all).toBeGreaterThan(310);
    expect(Math.min(counts.first, counts.second)).toBeGreaterThan(80);
    expect(counts.over).toBeGreaterThan(counts.all / 2);
    const stages = (await rows(`select distinct stage from records where workflow = 'objectLoan'`)).map(({ stage }) => stage);
    expect(stages).toEqual(expect.arrayContaining(['closed', 'onLoan', 'agreement', 'registrarCheck']));
  });

  test('borrowers without an account may ask for loans', async () => {
    const [link] = await rows(`select address from public_links where workflow = 'objectLoan' and stage = 'request'`);
    const opened = await server.anybody('GET', `/api/public/${link.address}`);
    expect(opened.body).toMatchObject({ name: 'Object loan', state: 'open' });
  });

  test('nothing of it lies ahead, and what happened to each record is in order', async () => {
    expect(await rows(`select 1 from record_events where at > '${new Date(NOW).toISOString()}'`)).toEqual([]);
    expect(
      await rows(`select 1 from (select record, at, lag(at) over (partition by record order by id) as before from record_events) e
        where before > at`),
    ).toEqual([]);
    expect(await rows(`select 1 from records r where not exists (select 1 from record_events e where e.record = r.id)`)).toEqual(
      [],
    );
  });

  test('loans opened their reports and bookings; numbers go on after them', async () => {
    const [opened] = await rows(
      `select count(*)::int as count, count(distinct workflow)::int as workflows from records where opened_by is not null`,
    );
    expect(opened.count).toBeGreaterThan(200);
    expect(opened.workflows).toBe(2);
    expect(await rows(`select workflow, number from records group by 1, 2 having count(*) > 1`)).toEqual([]);
    expect(
      await rows(
        `select w.key from workflows w where w.next_number <= (select count(*) from records r where r.workflow = w.key)`,
      ),
    ).toEqual([]);
  });

  test('a seeding that was cut off writes it no second time', async () => {
    const counts = 'select (select count(*)::int from records) as records, (select count(*)::int from record_events) as events';
    const before = await rows(counts);
    await rows('update workspace set is_seeded = false');
    await seedDemo(server.server.context);
    expect(await rows(counts)).toEqual(before);
  });

  test('only what the demo does now was sent', async () => {
    const sent = await rows(`select count(*)::int as count from deliveries`);
    expect(sent[0].count).toBeLessThan(20);
  });

  test('a loan of the first version opens, is handed on by it, and its register has all of them', async () => {
    const director = await server.as('director');
    const { body } = await director('GET', '/api/registers/objectLoan/totals?filter=record.version%20%3D%201');
    expect(body.count).toBeGreaterThan(80);
    const page = await director('GET', '/api/registers/objectLoan/records?filter=record.version%20%3D%201&limit=1');
    const record = await director('GET', `/api/records/${page.body.entries[0].record.id}`);
    expect([record.status, record.body.record.version]).toEqual([200, 1]);
    expect(record.body.history.length).toBeGreaterThan(1);
  });
});
