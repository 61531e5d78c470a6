import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import pg from 'pg';
import { RAISE_LOST, RELEASE_IDLE } from './jobs/queue.ts';
import { eventually, loanRequest, objectRow, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.make({ patience: { lockMs: 500, statementMs: 5000, answerMs: 6000, connectMs: 1500 } });
});
afterAll(() => server.close());

const REQUEST = loanRequest(objectRow('a', 'Tide clock', 'metal', '44000.00'));

async function begin(): Promise<string> {
  const borrower = await server.as('borrower');
  const { body } = await borrower('POST', '/api/intakes/objectLoan/records', {
    stage: 'request',
    handOff: 'submit',
    values: REQUEST,
  });
  return String(body.record.id);
}

async function otherConnection(): Promise<pg.Client> {
  const client = new pg.Client({ connectionString: server.databaseUrl, application_name: 'somebody else' });
  await client.connect();
  return client;
}

describe('a row that somebody else holds', () => {
  test('keeps its own hand-off waiting for a while, and nobody else’s', async () => {
    const [held, ...free] = [await begin(), await begin(), await begin(), await begin()];
    const registrar = await server.as('registrar');
    const accept = (id: string) =>
      registrar('POST', `/api/records/${id}/hand-offs`, { handOff: 'accept', values: {} }, { 'if-match': '"1"' });
    const client = await otherConnection();
    await client.query('begin');
    await client.query('select 1 from records where id = $1 for update', [held]);
    const [refused, ...served] = await Promise.all([held as string, ...free].map(accept));
    expect(served.map(({ status }) => status)).toEqual([200, 200, 200]);
    expect(refused && problemOf(refused)).toMatchObject({ status: 503, code: 'server/busy' });
    expect(Number(refused?.headers['retry-after'])).toBeGreaterThan(0);
    await client.query('rollback');
    await client.end();
    expect((await accept(held as string)).status).toBe(200);
  });
});

describe('a database that doesn’t answer', () => {
  test('gives 503 with a time to come back, health notices, and all is well when it is back', async () => {
    const registrar = await server.as('registrar');
    const client = await otherConnection();
    await client.query('begin');
    await client.query('lock table records in access exclusive mode');
    const desk = await registrar('GET', '/api/desk');
    expect(problemOf(desk)).toMatchObject({ status: 503, code: 'server/busy' });
    expect(Number(desk.headers['retry-after'])).toBeGreaterThan(0);
    await client.query('rollback');
    await client.end();
    expect((await registrar('GET', '/api/desk')).status).toBe(200);
  });

  test('gives 503 when all connections are taken, too', async () => {
    const registrar = await server.as('registrar');
    const { pool } = server.server.context.database;
    const taken = await Promise.all(Array.from({ length: 12 }, () => pool.connect()));
    const desk = await registrar('GET', '/api/desk');
    for (const client of taken) client.release();
    expect(problemOf(desk)).toMatchObject({ status: 503, code: 'server/busy' });
    await eventually(
      () => registrar('GET', '/api/desk'),
      ({ status }) => status === 200,
    );
  });

  test('health says so when statements had to be given up', async () => {
    const { pool } = server.server.context.database;
    await expect(pool.query({ text: 'select pg_sleep(1)', query_timeout: 100 } as pg.QueryConfig)).rejects.toThrow(/timeout/);
    const health = await server.anybody('GET', '/api/health');
    expect([health.status, health.body]).toMatchObject([503, { status: 'unready', database: false }]);
    await eventually(
      () => server.anybody('GET', '/api/health'),
      ({ status }) => status === 200,
    );
  });

  test('all connections lost at once, again and again: requests fail or succeed, and the server lives', async () => {
    const registrar = await server.as('registrar');
    const client = await otherConnection();
    for (let round = 0; round < 5; round++) {
      const asked = Promise.all(Array.from({ length: 20 }, () => registrar('GET', '/api/desk')));
      await client.query(
        `select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()`,
      );
      for (const { status } of await asked) expect([200, 503]).toContain(status);
    }
    await client.end();
    await eventually(
      () => registrar('GET', '/api/desk'),
      ({ status }) => status === 200,
    );
  });
});

test('a hand-off whose connection is lost after it was sent says that it isn’t known, and can be asked again', async () => {
  const id = await begin();
  const registrar = await server.as('registrar');
  const { pool } = server.server.context.database;
  // PostgreSQL carries the write out and then takes two seconds to say so: longer than the driver waits for it.
  await pool.query(
    `create function slow() returns trigger language plpgsql as $$ begin perform pg_sleep(1.4); return null; end $$`,
  );
  await pool.query(
    'create constraint trigger slow after update on records deferrable initially deferred for each row execute function slow()',
  );
  const accept = () =>
    registrar(
      'POST',
      `/api/records/${id}/hand-offs`,
      { handOff: 'accept', values: {} },
      { 'if-match': '"1"', 'idempotency-key': 'lost-answer-1' },
    );
  const asked = accept();
  await new Promise((resolve) => setTimeout(resolve, 300));
  const client = await otherConnection();
  await client.query(
    `select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and application_name = 'ypomet' and state = 'active'`,
  );
  const answer = await asked;
  await client.query('drop trigger slow on records');
  await client.end();
  expect(problemOf(answer)).toMatchObject({ status: 503, code: 'server/outcome-unknown' });
  expect(answer.body.title).not.toMatch(/nothing was changed/i);
  const again = await eventually(accept, ({ status }) => status !== 503);
  expect(again.status).toBe(200);
  const { rows } = await pool.query('select count(*)::int as events from record_events where record = $1', [id]);
  expect(rows[0].events).toBe(2);
});

describe('deliveries', () => {
  test('a job that this process holds and doesn’t run is freed, with its queue; one that it runs, or has just taken, is not', async () => {
    const { pool } = server.server.context.database;
    const add = async (queue: string, lockedBefore: string): Promise<string> => {
      const { rows } = await pool.query<{ id: string }>(
        `select (graphile_worker.add_job('deliver', '{}', $1, now() + interval '1 hour')).id::text as id`,
        [queue],
      );
      const [{ id = '' } = {}] = rows;
      await pool.query(
        `with job as (update graphile_worker._private_jobs set locked_by = 'a-pool', locked_at = now() - $2::interval where id = $1 returning job_queue_id)
         update graphile_worker._private_job_queues set locked_by = 'a-pool', locked_at = now() - $2::interval where id = (select job_queue_id from job)`,
        [id, lockedBefore],
      );
      return id;
    };
    const [idle, run, taken] = [await add('idle', '1 minute'), await add('run', '1 minute'), await add('taken', '1 second')];
    await pool.query(RELEASE_IDLE, [['a-pool'], [run]]);
    const { rows } = await pool.query<{ id: string; job: boolean; queue: boolean }>(
      `select j.id::text as id, j.locked_by is not null as job, q.locked_by is not null as queue
       from graphile_worker._private_jobs j join graphile_worker._private_job_queues q on q.id = j.job_queue_id where j.id = any($1) order by j.id`,
      [[idle, run, taken]],
    );
    expect(rows).toEqual([
      { id: idle, job: false, queue: false },
      { id: run, job: true, queue: true },
      { id: taken, job: true, queue: true },
    ]);
    await pool.query('delete from graphile_worker._private_jobs where id = any($1)', [[idle, run, taken]]);
  });

  test('one whose last attempt was cut off waits for a person', async () => {
    const { pool } = server.server.context.database;
    const record = await begin();
    const { rows } = await pool.query<{ id: string }>(
      `insert into deliveries (id, record, kind, name, recipients, subject, body, status, created_at)
       values (gen_random_uuid(), $1, 'mail', 'Lost', '{a@b.invalid}', 's', 'b', 'queued', now() - interval '2 minutes') returning id`,
      [record],
    );
    await pool.query(RAISE_LOST);
    const analyst = await server.as('analyst');
    const { body } = await analyst('GET', '/api/deliveries?limit=200');
    const entry = body.entries.find(({ id }: { id: string }) => id === rows[0]?.id);
    expect(entry).toMatchObject({ status: 'waiting', fault: { code: 'cut-off', params: {} } });
    expect((await analyst('POST', `/api/deliveries/${entry.id}/attempts`)).status).toBe(200);
    await eventually(
      async () => (await pool.query('select status from deliveries where id = $1', [entry.id])).rows[0].status,
      (status) => status === 'sent',
    );
  });

  test('an address that is none waits for a person at once, and nobody else gets the mail', async () => {
    const analyst = await server.as('analyst');
    await publishDefinition(analyst, {
      format: 'ypomet.workflow/1',
      key: 'openMail',
      name: 'Open mail',
      sections: [{ key: 'all', name: 'All' }],
      fields: [{ type: 'text', key: 'who', name: 'Who', section: 'all', treatment: 'optional' }],
      tracks: [{ key: 'main', name: 'Main' }],
      stages: [
        { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] },
        { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
      ],
      handOffs: [
        {
          key: 'send',
          name: 'Send',
          from: 'ask',
          otherwise: { to: 'done' },
          deliveries: [
            { kind: 'mail', key: 'm', name: 'M', to: [{ kind: 'expression', expression: 'who' }], subject: 's', body: 'b' },
          ],
        },
      ],
    } as never);
    const borrower = await server.as('borrower');
    const many = Array.from({ length: 200 }, (_, index) => `a${index}@else.invalid`).join(', ');
    const begun = await borrower('POST', '/api/intakes/openMail/records', {
      stage: 'ask',
      handOff: 'send',
      values: { who: many },
    });
    expect(begun.status).toBe(201);
    const { rows } = await server.server.context.database.pool.query(
      'select status, recipients, fault from deliveries where record = $1',
      [begun.body.record.id],
    );
    expect(rows).toEqual([
      { status: 'waiting', recipients: [], fault: { code: 'recipient-unfit', params: { recipients: ['1'] } } },
    ]);
  });
});
