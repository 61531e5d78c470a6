import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { findStanding } from './jobs/standing.ts';
import { QUEUE_NOTICES } from './modules/deliveries/tell-waiting.ts';
import { type Call, eventually, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

// What a person does about deliveries that wait: answers that didn't fit, wrong addresses, what isn't needed any more.
let server: TestServer;
let analyst: Call;
let registrar: Call;
beforeAll(async () => {
  server = await TestServer.make();
  [analyst, registrar] = await Promise.all([server.as('analyst'), server.as('registrar')]);
  await publishDefinition(analyst, ASKING);
});
afterAll(() => server.close());

const ASKING = {
  format: 'ypomet.workflow/1',
  key: 'asking',
  name: 'Asking',
  roles: [{ key: 'registrar', name: 'Registrar' }],
  sections: [{ key: 's', name: 'S' }],
  fields: [
    { type: 'money', key: 'value', name: 'Value', section: 's', treatment: 'optional', currency: 'EUR' },
    { type: 'money', key: 'premium', name: 'Premium', section: 's', treatment: 'read-only', currency: 'EUR' },
    { type: 'text', key: 'address', name: 'Address', section: 's', treatment: 'optional' },
  ],
  tracks: [{ key: 'm', name: 'M' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['m'], roles: ['registrar'] },
    { key: 'rest', name: 'Rest', kind: 'work', tracks: ['m'], roles: ['registrar'] },
    { key: 'end', name: 'End', kind: 'end', tracks: ['m'] },
  ],
  handOffs: [
    {
      key: 'quote',
      name: 'Quote',
      from: 'ask',
      otherwise: { to: 'rest' },
      deliveries: [
        {
          kind: 'web',
          key: 'ask',
          name: 'Ask the insurer',
          outlet: 'insurer',
          address: 'quotes',
          properties: [{ key: 'v', name: 'value', value: 'value' }],
          answers: [{ key: 'a', name: 'premium', field: 'premium' }],
        },
      ],
    },
    {
      key: 'tell',
      name: 'Tell',
      from: 'ask',
      otherwise: { to: 'rest' },
      deliveries: [
        {
          kind: 'mail',
          key: 'tell',
          name: 'Tell them',
          to: [{ key: 'to', kind: 'expression', expression: 'address' }],
          subject: 'Told',
          body: 'Told.',
        },
      ],
    },
    { key: 'finish', name: 'Finish', from: 'rest', offeredWhen: 'record.awaited = 0', otherwise: { to: 'end' } },
  ],
};

const begin = async (handOff: string, values: object): Promise<string> => {
  const { body, status } = await registrar('POST', '/api/intakes/asking/records', { stage: 'ask', handOff, values });
  expect(status).toBe(201);
  return body.record.id;
};
const show = async (id: string) => (await registrar('GET', `/api/records/${id}`)).body;
const finish = async (id: string) => {
  const { record } = await show(id);
  const headers = { 'if-match': `"${record.revision}"` };
  return registrar('POST', `/api/records/${id}/hand-offs`, { handOff: 'finish', values: {} }, headers);
};
/** The only delivery of a record, once it is in a state. */
const deliveryOf = async (id: string, status: string) => {
  const { number } = (await show(id)).record;
  const entries = async () => (await analyst('GET', `/api/deliveries?record=${encodeURIComponent(number)}`)).body.entries;
  const [entry] = await eventually(entries, (found) => found.length === 1 && found[0].status === status);
  return entry;
};
const receive = (mode: string) => analyst('PUT', '/api/standins/receiver', { mode });

describe('an answer that doesn’t fit', () => {
  test('waits for a person with the reason, stands in the history, and what needs it isn’t offered until it came', async () => {
    await receive('no-json');
    const id = await begin('quote', { value: '100.00' });
    const entry = await deliveryOf(id, 'waiting');
    expect(entry.fault).toMatchObject({ code: 'answer-unfit' });
    expect(entry.fault.params.why).toContain('Premium');
    const document = await show(id);
    expect(document.history.map(({ type }: { type: string }) => type)).toEqual(['handed-on', 'answer-refused']);
    expect(document.record.awaited).toBe(1);
    expect(problemOf(await finish(id)).details).toEqual(['finish: hand-off/not-offered']);
    const { body: whole } = await analyst('GET', `/api/deliveries/${entry.id}`);
    expect(whole.tried).toHaveLength(1);

    await receive('answers');
    expect((await analyst('POST', `/api/deliveries/${entry.id}/attempts`)).status).toBe(200);
    await deliveryOf(id, 'sent');
    const after = await show(id);
    expect(after.record.awaited).toBe(0);
    expect(after.form.values.premium).toBe('40.00');
    expect((await finish(id)).status).toBe(200);
  });

  test('can be put away with a reason: it isn’t sent any more, and nothing waits for it', async () => {
    await receive('no-json');
    const id = await begin('quote', { value: '100.00' });
    const entry = await deliveryOf(id, 'waiting');
    await receive('answers');
    expect((await analyst('PUT', `/api/deliveries/${entry.id}/put-away`, { reason: ' ' })).status).toBe(400);
    const reason = 'They answered by telephone.';
    const put = await analyst('PUT', `/api/deliveries/${entry.id}/put-away`, { reason });
    expect(put.body).toMatchObject({ status: 'put-away', fault: { code: 'put-away', params: { reason } } });
    expect(problemOf(await analyst('PUT', `/api/deliveries/${entry.id}/put-away`, { reason })).code).toBe('delivery/not-waiting');
    expect(problemOf(await analyst('POST', `/api/deliveries/${entry.id}/attempts`)).code).toBe('delivery/not-waiting');
    const document = await show(id);
    expect(document.history.at(-1)).toMatchObject({ type: 'put-away', from: 'Ask the insurer' });
    expect(JSON.stringify(document.history)).not.toContain('telephone');
    expect((await finish(id)).status).toBe(200);
  });
});

describe('a mail to a wrong address', () => {
  test('is put right and sent; what isn’t an address is refused', async () => {
    const before = (await analyst('GET', '/api/deliveries/waiting')).body.waiting;
    const id = await begin('tell', { address: 'nobody at all' });
    const entry = await deliveryOf(id, 'waiting');
    expect((await analyst('GET', '/api/deliveries/waiting')).body).toMatchObject({ waiting: before + 1 });
    const correct = (body: object) => registrar('PUT', `/api/deliveries/${entry.id}/correction`, body);
    // Whoever can't read it can't send it to themselves.
    const redirect = await analyst('PUT', `/api/deliveries/${entry.id}/correction`, { to: ['ines@lindenmuseum.invalid'] });
    expect(problemOf(redirect)).toMatchObject({ status: 403, code: 'session/forbidden' });
    expect(problemOf(await correct({ to: ['nobody'] }))).toMatchObject({ status: 400, code: 'request/invalid' });
    expect((await correct({ fileName: 'x.txt' })).status).toBe(400);
    expect((await correct({ outlet: 'insurer' })).status).toBe(400);
    const corrected = await correct({ to: ['someone@hollenstreet.invalid'] });
    expect(corrected.body).toMatchObject({ recipients: ['someone@hollenstreet.invalid'], fault: null });
    const sent = await deliveryOf(id, 'sent');
    expect(sent.recipients).toEqual(['someone@hollenstreet.invalid']);
    expect(problemOf(await correct({ to: ['someone@hollenstreet.invalid'] })).code).toBe('delivery/not-waiting');
  });

  test('is offered to those who may read the record, and is there for nobody else but analysts', async () => {
    const id = await begin('tell', { address: 'nobody at all' });
    const entry = await deliveryOf(id, 'waiting');
    const { sent } = await show(id);
    expect(sent).toEqual([expect.objectContaining({ id: entry.id, status: 'waiting', maySettle: true })]);
    const borrower = await server.as('borrower');
    for (const [method, path, body] of [
      ['GET', '', undefined],
      ['POST', '/attempts', undefined],
      ['PUT', '/put-away', { reason: 'Not mine.' }],
      ['PUT', '/correction', { to: ['beryl@hollenstreet.invalid'] }],
    ] as const)
      expect(problemOf(await borrower(method, `/api/deliveries/${entry.id}${path}`, body)).status).toBe(404);
    expect((await registrar('GET', `/api/deliveries/${entry.id}`)).body.content).toMatchObject({ kind: 'mail', subject: 'Told' });
    const put = await registrar('PUT', `/api/deliveries/${entry.id}/put-away`, { reason: 'Told by telephone.' });
    expect(put.body.fault.params.by).toBe('Rufus Okonjo');
  });
});

describe('what is queued and doesn’t move', () => {
  test('is told with its outlet and for how long, by health too, and only while nothing of the outlet is tried', async () => {
    const { pool } = server.server.context.database;
    expect((await server.anybody('GET', '/api/health')).body.status).toBe('ok');
    expect((await analyst('GET', '/api/deliveries/waiting')).body.standing).toEqual([]);
    // A job that no process can do.
    await pool.query(
      `select graphile_worker.add_job('nothing', '{}', 'outlet:insurer:0', now() - interval '5 minutes', 25, 'stands')`,
    );
    await pool.query(`update delivery_attempts set at = at - interval '1 hour'`);
    const { standing } = (await analyst('GET', '/api/deliveries/waiting')).body;
    expect(standing).toEqual([{ outlet: 'insurer', dueSeconds: expect.any(Number) }]);
    expect(standing[0].dueSeconds).toBeGreaterThanOrEqual(300);
    expect((await findStanding(pool)).map(({ outlet }) => outlet)).toEqual(['insurer']);
    // One of its deliveries is tried: the others are only behind it.
    await deliveryOf(await begin('quote', { value: '10.00' }), 'sent');
    expect(await findStanding(pool)).toEqual([]);
    await pool.query(`select graphile_worker.remove_job('stands')`);
  });
});

describe('whoever answers for a workflow', () => {
  test('is told by mail that deliveries wait, once for what is known by then, without values', async () => {
    const { pool } = server.server.context.database;
    const queued = async (): Promise<number> =>
      (await pool.query(`select count(*)::int as count from graphile_worker.jobs where task_identifier = 'tell'`)).rows[0].count;
    const notices = async (): Promise<readonly { id: string; subject: string }[]> => {
      const { entries } = (await analyst('GET', '/api/standins/mailbox')).body;
      return (entries as { id: string; subject: string }[]).filter(({ subject }) => subject.endsWith('deliveries wait for you'));
    };
    await begin('tell', { address: 'nobody at all' }).then((id) => deliveryOf(id, 'waiting'));
    // What was told of earlier tests meanwhile.
    await pool.query('update workflows set told_waiting_at = now()');
    await eventually(queued, (count) => count === 0);
    const before = (await notices()).length;
    await pool.query('update workflows set told_waiting_at = null');
    await pool.query(QUEUE_NOTICES);
    await pool.query(QUEUE_NOTICES);
    const own = await eventually(notices, (list) => list.length > before, 30);
    expect(own).toHaveLength(before + 1);
    const mail = (await analyst('GET', `/api/standins/mailbox/${own[0]?.id}`)).body;
    expect(JSON.stringify(mail)).toContain('ines@lindenmuseum.invalid');
    expect(JSON.stringify(mail)).not.toContain('nobody at all');
    await eventually(queued, (count) => count === 0);
    // Nothing new waits: nobody is told again, also after the hour.
    await pool.query(
      `update workflows set told_waiting_at = told_waiting_at - interval '2 hours' where told_waiting_at is not null`,
    );
    await pool.query(`update delivery_attempts set at = at - interval '3 hours'`);
    await pool.query(`update deliveries set created_at = created_at - interval '3 hours'`);
    await pool.query(QUEUE_NOTICES);
    expect(await queued()).toBe(0);
  });
});

describe('an outlet that keeps the order', () => {
  test('sends one after another: one that is tried again holds up those after it, and each says its place', async () => {
    const { pool } = server.server.context.database;
    const order = (isOrdered: boolean) =>
      pool.query(
        `update outlets set settings = settings || jsonb_build_object('isOrdered', $1::boolean), changed_at = clock_timestamp() where key = 'insurer'`,
        [isOrdered],
      );
    await order(true);
    await receive('error');
    const ids: string[] = [];
    // Enough of them that it would be felt if each tried again and again whether its turn has come.
    const values = Array.from({ length: 30 }, (_, index) => String(1100 + index));
    for (const value of values) ids.push(await begin('quote', { value: `${value}.00` }));
    const [first = '', ...others] = ids;
    const { number } = (await show(first)).record;
    const firstOf = async () => (await analyst('GET', `/api/deliveries?record=${number}`)).body.entries[0];
    await eventually(firstOf, ({ attempts }) => attempts >= 1);
    // The others aren't tried meanwhile.
    for (const id of others) expect((await deliveryOf(id, 'queued')).attempts).toBe(0);
    await receive('answers');
    for (const id of ids) await deliveryOf(id, 'sent');
    const { body } = await analyst('GET', '/api/standins/receiver');
    const arrived = (body.entries as { body: string; headers: { name: string; value: string }[] }[])
      .filter((one) => /"value":11\d\d/.test(one.body))
      .map((one) => [/11\d\d/.exec(one.body)?.[0], one.headers.find(({ name }) => name === 'x-ypomet-sequence')?.value]);
    expect(arrived.slice(0, values.length).reverse()).toEqual(values.map((value) => [value, '1']));
    await order(false);
  }, 60_000);
});
