import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import pg from 'pg';
import { ADD_JOB, listAttempts, markFailed, markSent } from './modules/deliveries/repository.ts';
import { eventually, loanRequest, objectRow, problemOf, TestServer } from './testing/test-server.ts';

const REQUEST = loanRequest(objectRow('a', 'Harbour study', 'paper', '60000.00'));

describe('the dispatch log', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.make();
  });
  afterAll(() => server.close());

  const entriesOf = async (number: string) => {
    const analyst = await server.as('analyst');
    const { body } = await analyst('GET', '/api/deliveries?limit=200');
    return body.entries.filter((entry: { recordNumber: string }) => entry.recordNumber === number);
  };
  const sendOne = async () => {
    const borrower = await server.as('borrower');
    const registrar = await server.as('registrar');
    const begun = await borrower('POST', '/api/intakes/objectLoan/records', {
      stage: 'request',
      handOff: 'submit',
      values: REQUEST,
    });
    const { id, number } = begun.body.record;
    const accepted = await registrar(
      'POST',
      `/api/records/${id}/hand-offs`,
      { handOff: 'accept', values: { luxLimit: '50' } },
      { 'if-match': '"1"' },
    );
    expect(accepted.status).toBe(200);
    return String(number);
  };

  test('a mail is queued with its hand-off, sent once, and lies in the mailbox', async () => {
    const number = await sendOne();
    const entries = await eventually(
      () => entriesOf(number),
      (found) => found.length > 0 && found.every(({ status }: { status: string }) => status === 'sent'),
    );
    const { subject } = entries.find((entry: { subject: string }) => entry.subject.includes(number));
    const analyst = await server.as('analyst');
    const { body } = await analyst('GET', '/api/standins/mailbox?limit=200');
    const mails = body.entries.filter((mail: { subject: string }) => mail.subject === subject);
    expect(mails).toHaveLength(1);
    const whole = await analyst('GET', `/api/standins/mailbox/${mails[0].id}`);
    expect(whole.body.text).toContain('Hollen Street Gallery');
    expect(whole.body.headers.map(({ name }: { name: string }) => name)).toContain('message-id');
  });

  test('one that was given up waits for a person, who can try it again; one that was sent can’t be', async () => {
    const number = await sendOne();
    const [sent] = await eventually(
      () => entriesOf(number),
      (entries) => entries.length > 0 && entries[0].status === 'sent',
    );
    const analyst = await server.as('analyst');
    expect(problemOf(await analyst('POST', `/api/deliveries/${sent.id}/attempts`))).toMatchObject({
      status: 409,
      code: 'delivery/not-waiting',
    });
    await server.server.context.database.pool.query(
      `update deliveries set status = 'waiting', fault = '{"code":"refused","params":{"answer":"refused"}}' where id = $1`,
      [sent.id],
    );
    expect((await entriesOf(number))[0].status).toBe('waiting');
    expect((await analyst('POST', `/api/deliveries/${sent.id}/attempts`)).status).toBe(200);
    await eventually(
      () => entriesOf(number),
      (entries) => entries[0].status === 'sent',
    );
  });

  test('what was sent stays sent, whatever a slower attempt at it comes to', async () => {
    const number = await sendOne();
    const [{ id, attempts }] = await eventually(
      () => entriesOf(number),
      (entries) => entries.length > 0 && entries[0].status === 'sent',
    );
    const { pool } = server.server.context.database;
    const late = { id, durationMs: 1, answer: '', issues: null };
    await markFailed(pool, late, { code: 'refused', params: { answer: 'late' } }, 0);
    await markSent(pool, late);
    const [entry] = await entriesOf(number);
    expect([entry.status, entry.attempts, entry.fault, entry.nextAt]).toEqual(['sent', attempts, null, null]);
    expect((await listAttempts(pool, id)).filter(({ isSent }) => isSent)).toHaveLength(1);
  });

  test('it is paged, newest first', async () => {
    const analyst = await server.as('analyst');
    const all = (await analyst('GET', '/api/deliveries?limit=200')).body.entries.map(({ id }: { id: string }) => id);
    const paged: string[] = [];
    let after = '';
    do {
      const { body } = await analyst('GET', `/api/deliveries?limit=2${after}`);
      paged.push(...body.entries.map(({ id }: { id: string }) => id));
      after = body.next ? `&after=${body.next}` : '';
    } while (after !== '');
    expect(paged).toEqual(all);
    expect(all.length).toBeGreaterThan(3);
  });
});

describe('the log', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.make();
  });
  afterAll(() => server.close());
  const sql = async (text: string, values: readonly unknown[] = []) =>
    (await server.server.context.database.pool.query(text, [...values])).rows;
  const settled = async (): Promise<void> => {
    await eventually(
      () => sql(`select 1 from deliveries where status = 'queued'`),
      (rows) => rows.length === 0,
    );
  };

  test('is narrowed by state, outlet, workflow, record and days of the workspace', async () => {
    await settled();
    const analyst = await server.as('analyst');
    const [one] = await sql(
      `select d.id, r.number from deliveries d join records r on r.id = d.record order by d.created_at limit 1`,
    );
    await sql(
      `update deliveries set status = 'waiting', fault = '{"code":"nobody","params":{}}', created_at = '2026-03-28T23:30:00Z' where id = $1`,
      [one.id],
    );
    const found = async (query: string) =>
      (await analyst('GET', `/api/deliveries?limit=200&${query}`)).body.entries.map(({ id }: { id: string }) => id);
    expect(await found('status=waiting')).toEqual([one.id]);
    expect(await found(`record=${one.number}&outlet=mail&workflow=objectLoan`)).toContain(one.id);
    expect(await found('workflow=conditionReport')).toEqual([]);
    expect(await found('outlet=insurer')).toEqual([]);
    // Half past midnight on the 29th in Vienna, the day on which its clocks change.
    expect(await found('from=2026-03-29&to=2026-03-29')).toEqual([one.id]);
    expect(await found('to=2026-03-28')).toEqual([]);
    for (const query of ['status=lost', 'from=yesterday', `record=${'x'.repeat(101)}`])
      expect(problemOf(await analyst('GET', `/api/deliveries?${query}`))).toMatchObject({ status: 400, code: 'request/invalid' });
    await sql(`update deliveries set status = 'sent' where id = $1`, [one.id]);
  });

  test('several are tried again at once, or all of an outlet; nothing that was sent is', async () => {
    await settled();
    const analyst = await server.as('analyst');
    const ids = (
      await sql(`update deliveries set status = 'waiting' where id in (select id from deliveries limit 3) returning id`)
    ).map(({ id }) => id);
    const sent = (await sql(`select id from deliveries where status = 'sent' limit 1`))[0].id;
    expect((await analyst('POST', '/api/deliveries/attempts', { ids: [ids[0], sent] })).body).toEqual({ queued: 1 });
    expect((await analyst('POST', '/api/deliveries/attempts', { outlet: 'mail' })).body).toEqual({ queued: 2 });
    expect((await analyst('POST', '/api/deliveries/attempts', { outlet: 'mail' })).body).toEqual({ queued: 0 });
    expect(problemOf(await analyst('POST', '/api/deliveries/attempts', {}))).toMatchObject({
      status: 400,
      code: 'request/invalid',
    });
    await settled();
  });

  test('tells each attempt, and shows what was sent to those who may read all that is in the record', async () => {
    await settled();
    const [{ id }] = await sql(`select id from deliveries where status = 'sent' limit 1`);
    const analyst = await server.as('analyst');
    const without = (await analyst('GET', `/api/deliveries/${id}`)).body;
    expect([without.content, without.tried[0].isSent, without.tried[0].answer]).toEqual([null, true, '']);
    // With a role in the workflow.
    await sql(`update members set roles = roles || '{registrar}' where email like 'ines%'`);
    const within = (await (await server.as('analyst'))('GET', `/api/deliveries/${id}`)).body;
    expect(within.content).toMatchObject({ kind: 'mail', subject: within.subject });
    expect(within.tried[0].answer).toMatch(/^250/);
    await sql(`update members set roles = '{analyst,administrator}' where email like 'ines%'`);
  });

  test('a dead outlet with ten thousand deliveries holds up no other', async () => {
    await settled();
    const analyst = await server.as('analyst');
    await analyst('PUT', '/api/standins/receiver', { mode: 'hangs' });
    await sql(`insert into deliveries (id, record, kind, delivery, outlet, name, recipients, subject, content, created_at)
      select gen_random_uuid(), (select id from records limit 1), 'web', 'w', 'insurer', 'W', '{}', 'POST', jsonb_build_object('type', 'web',
        'delivery', 'w', 'name', 'W', 'outlet', 'insurer', 'method', 'POST', 'address', '', 'headers', '[]'::jsonb, 'mediaType',
        'application/json', 'body', '{}', 'expects', '200-299', 'answers', '[]'::jsonb), now() from generate_series(1, 10000)`);
    // Takes longer than the server lets a statement take.
    const client = new pg.Client({ connectionString: server.databaseUrl });
    await client.connect();
    await client.query(`select count(${ADD_JOB('d')}) from deliveries d where outlet = 'insurer' and status = 'queued'`);
    await client.end();
    const borrower = await server.as('borrower');
    const begun = await borrower('POST', '/api/intakes/objectLoan/records', {
      stage: 'request',
      handOff: 'submit',
      values: REQUEST,
    });
    await eventually(
      () => sql(`select status from deliveries where record = $1`, [begun.body.record.id]),
      (rows) => rows.length > 0 && rows.every(({ status }) => status === 'sent'),
    );
    const [{ left }] = await sql(`select count(*)::int as left from deliveries where outlet = 'insurer' and status = 'queued'`);
    expect(left).toBeGreaterThan(9900);
    await sql(
      `delete from graphile_worker._private_jobs where key in (select id::text from deliveries where outlet = 'insurer')`,
    );
    await sql(`delete from delivery_attempts where delivery in (select id from deliveries where outlet = 'insurer')`);
    await sql(`delete from deliveries where outlet = 'insurer'`);
    await analyst('PUT', '/api/standins/receiver', { mode: 'answers' });
  });
});

describe('outlets', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.make();
  });
  afterAll(() => server.close());
  const SETTINGS = { kind: 'web', address: 'https://insurer.example', authentication: 'signature', timeoutSeconds: 5 };

  test('are set up by administrators alone; analysts see them, without secrets', async () => {
    const [analyst, registrar] = await Promise.all([server.as('analyst'), server.as('registrar')]);
    const body = { name: 'Another', settings: SETTINGS, secret: 'a secret that nobody reads' };
    expect(problemOf(await registrar('GET', '/api/outlets'))).toMatchObject({ status: 403 });
    expect(problemOf(await registrar('PUT', '/api/outlets/other', body))).toMatchObject({ status: 403 });
    const made = await analyst('PUT', '/api/outlets/other', body);
    expect(made.body).toMatchObject({ key: 'other', hasSecret: true, usedBy: [] });
    const all = JSON.stringify((await analyst('GET', '/api/outlets')).body);
    expect(all).not.toContain('a secret');
    const { rows } = await server.server.context.database.pool.query("select secret from outlets where key = 'other'");
    expect(rows[0].secret).toMatch(/^v1\.own\./);
    // Without one it keeps the one it has; null takes it away.
    expect((await analyst('PUT', '/api/outlets/other', { name: 'B', settings: SETTINGS })).body).toMatchObject({
      name: 'B',
      hasSecret: true,
    });
    // It goes to the host it was given for, whatever else changes, and to no other.
    const put = async (settings: object) => (await analyst('PUT', '/api/outlets/other', { name: 'B', settings })).body.hasSecret;
    expect(await put({ ...SETTINGS, address: 'https://insurer.example/v2', timeoutSeconds: 9 })).toBe(true);
    expect(await put({ ...SETTINGS, address: 'https://elsewhere.example' })).toBe(false);
    expect((await analyst('PUT', '/api/outlets/other', body)).body.hasSecret).toBe(true);
    expect((await analyst('PUT', '/api/outlets/other', { name: 'B', settings: SETTINGS, secret: null })).body.hasSecret).toBe(
      false,
    );
    await server.server.context.database.pool.query("update members set roles = '{analyst}' where email like 'ines%'");
    expect(problemOf(await analyst('PUT', '/api/outlets/other', body))).toMatchObject({ status: 403, code: 'session/forbidden' });
    await server.server.context.database.pool.query(
      "update members set roles = '{analyst,administrator}' where email like 'ines%'",
    );
  });

  test('say what went wrong when they are tried', async () => {
    const analyst = await server.as('analyst');
    const trial = async (settings: object) => {
      await analyst('PUT', '/api/outlets/tried', { name: 'Tried', settings });
      const { body } = await analyst('POST', '/api/outlets/tried/trials');
      return [body.isWorking, body.answer];
    };
    expect(await trial({ ...SETTINGS, address: 'http://127.0.0.1:9' })).toEqual([
      false,
      'Its address leads into the server’s own network.',
    ]);
    expect((await trial({ ...SETTINGS, address: 'https://nowhere.invalid' }))[0]).toBe(false);
    for (const key of ['mail', 'insurer', 'agreements'])
      expect((await analyst('POST', `/api/outlets/${key}/trials`)).body).toMatchObject({ isWorking: true });
    const mailed = await analyst('POST', '/api/outlets/mail/mails-to-me', {
      subject: 'A test',
      body: [{ kind: 'paragraph', runs: [{ text: 'As it would arrive' }] }],
    });
    expect(mailed.body).toMatchObject({ isWorking: true });
    const { body } = await analyst('GET', '/api/standins/mailbox?limit=1');
    expect(body.entries[0]).toMatchObject({ subject: 'A test', to: ['ines@lindenmuseum.invalid'] });
  });

  test('keep their kind, and go only when nothing names them', async () => {
    const analyst = await server.as('analyst');
    const file = { name: 'F', settings: { kind: 'file', folder: 'F' } };
    expect(problemOf(await analyst('PUT', '/api/outlets/insurer', file))).toMatchObject({
      status: 409,
      code: 'outlet/other-kind',
    });
    for (const key of ['insurer', 'mail'])
      expect(problemOf(await analyst('DELETE', `/api/outlets/${key}`))).toMatchObject({ status: 409, code: 'outlet/in-use' });
    expect((await analyst('PUT', '/api/outlets/gone', file)).status).toBe(200);
    expect((await analyst('DELETE', '/api/outlets/gone')).status).toBe(204);
    expect(problemOf(await analyst('DELETE', '/api/outlets/gone'))).toMatchObject({ status: 404 });
  });

  test.each(['../etc', '/etc', '.hidden', ''])('a folder “%s” is none', async (folder) => {
    const analyst = await server.as('analyst');
    const answer = await analyst('PUT', '/api/outlets/bad', { name: 'Bad', settings: { kind: 'file', folder } });
    expect(problemOf(answer)).toMatchObject({ status: 400, code: 'request/invalid' });
  });

  test.each(['../session-secret', 'Agreements/../../session-secret', '/etc/passwd', '.written', 'Agreements/.written/x'])(
    'the registers give no file outside them: %s',
    async (path) => {
      const analyst = await server.as('analyst');
      const answer = await analyst('GET', `/api/standins/registers/file?path=${encodeURIComponent(path)}`);
      expect(answer.status).toBe(404);
    },
  );
});
