import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { RecordClock } from './modules/records/record-clock.ts';
import { RecordService } from './modules/records/service.ts';
import { type Call, eventually, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

// Due dates, reminders and hand-offs by the clock, on a real PostgreSQL, with a clock that the test moves.
const HOUR = 3_600_000;
/** Friday, 27 November 2026, ten o'clock in Vienna. */
const START = Date.parse('2026-11-27T09:00:00Z');
let now = START;
let server: TestServer;
let analyst: Call;
let registrar: Call;

const mail = (key: string, subject: string) => ({
  kind: 'mail',
  key,
  name: subject,
  to: [{ kind: 'role', role: 'registrar' }],
  subject,
  body: 'Until {{record.due}}',
});

const design = (key: string, due: string, finish: object = {}, more: object = {}) => ({
  format: 'ypomet.workflow/1',
  key,
  name: key,
  roles: [{ key: 'registrar', name: 'Registrar' }],
  sections: [{ key: 'all', name: 'All' }],
  fields: [
    { key: 'back', name: 'Back', section: 'all', type: 'date', treatment: 'optional' },
    { key: 'seen', name: 'Seen', section: 'all', type: 'text', treatment: 'optional' },
  ],
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'], roles: ['registrar'] },
    {
      key: 'work',
      name: 'Work',
      kind: 'work',
      tracks: ['main'],
      roles: ['registrar'],
      due,
      reminders: [
        { key: 'soon', name: 'Two days before', offset: { count: 2, unit: 'working-days' }, deliveries: [mail('soon', 'Soon')] },
        { key: 'late', name: 'Late', offset: { count: 1, side: 'after' }, deliveries: [mail('late', 'Late')] },
      ],
    },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  handOffs: [
    { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'work' } },
    { key: 'save', name: 'Save', from: 'work', checking: 'none', otherwise: { to: 'work' } },
    {
      key: 'finish',
      name: 'Finish',
      from: 'work',
      otherwise: { to: 'done' },
      byClock: { offset: { count: 2, side: 'after' } },
      ...finish,
    },
  ],
  ...more,
});

beforeAll(async () => {
  server = await TestServer.make({ clock: () => now });
  analyst = await server.as('analyst');
  registrar = await server.as('registrar');
  await publishDefinition(analyst, design('timed', 'back'));
});
afterAll(() => server.close());

const begin = async (workflow: string, values: object): Promise<string> => {
  const answer = await registrar('POST', `/api/intakes/${workflow}/records`, { stage: 'ask', handOff: 'send', values });
  if (answer.status !== 201 && answer.status !== 200) throw new Error(JSON.stringify(answer.body));
  return answer.body.record.id;
};
const shown = async (id: string) => (await registrar('GET', `/api/records/${id}`)).body;
const typesOf = ({ history }: { readonly history: readonly { type: string }[] }) => history.map(({ type }) => type);
const sentFor = async (id: string): Promise<readonly string[]> => {
  const { rows } = await server.server.context.database.pool.query(
    'select subject from deliveries where record = $1 order by created_at, subject',
    [id],
  );
  return rows.map(({ subject }: { subject: string }) => subject);
};
/** What a process of its own would do now. */
const tick = (): Promise<void> => {
  const { context, app } = server.server;
  return new RecordClock(context, new RecordService(context), app.log).tick();
};
const goTo = (text: string): void => {
  now = Date.parse(text);
};

describe('a record with a due date', () => {
  test('a process whose clock is off does nothing that depends on time', async () => {
    const { context, app } = server.server;
    let looked = 0;
    const pool = new Proxy(context.database.pool, {
      get: (target, name) => {
        if (name === 'query') looked += 1;
        return Reflect.get(target, name);
      },
    });
    const off = { ...context, database: { ...context.database, pool }, wallClock: { isOff: async () => true } as never };
    await new RecordClock(off, new RecordService(context), app.log).tick();
    expect(looked).toBe(0);
  });

  test('says when it is due and whether that has passed; it is reminded of, and goes on by itself, each once', async () => {
    goTo('2026-11-27T09:00:00Z');
    const id = await begin('timed', { back: '2026-12-03' });
    expect((await shown(id)).record).toMatchObject({ due: '2026-12-03', isOverdue: false });
    goTo('2026-12-01T07:59:00Z');
    await tick();
    expect(typesOf(await shown(id))).toEqual(['handed-on']);
    // Two working days before, when work begins.
    goTo('2026-12-01T08:00:00Z');
    await eventually(
      () => shown(id),
      (found) => typesOf(found).includes('reminded'),
    );
    expect(await sentFor(id)).toEqual(['Soon']);
    goTo('2026-12-03T23:00:01Z');
    expect((await shown(id)).record.isOverdue).toBe(true);
    const desk = (await registrar('GET', '/api/desk')).body.entries.find(
      ({ record }: { record: { id: string } }) => record.id === id,
    );
    expect(desk.record).toMatchObject({ due: '2026-12-03', isOverdue: true });
    goTo('2026-12-05T22:59:59Z');
    const gone = await eventually(
      () => shown(id),
      (found) => found.record.stage === 'done',
    );
    expect(typesOf(gone)).toEqual(['handed-on', 'reminded', 'reminded', 'handed-on']);
    expect(gone.record).toMatchObject({ due: null, isOverdue: false });
    expect(gone.history[2]).toMatchObject({ by: null, from: 'Late' });
    expect(gone.history[3]).toMatchObject({ by: null, handOff: 'Finish', to: 'Done' });
    expect(await sentFor(id)).toEqual(['Soon', 'Late']);
  }, 30_000);

  test('a save is no new stay: nothing is sent twice, and what somebody has open is not stale for a reminder', async () => {
    goTo('2026-12-01T08:00:00Z');
    const id = await begin('timed', { back: '2026-12-03' });
    const open = await shown(id);
    await eventually(
      () => shown(id),
      (found) => typesOf(found).includes('reminded'),
    );
    const saved = await registrar(
      'POST',
      `/api/records/${id}/hand-offs`,
      { handOff: 'save', values: { seen: 'yes' } },
      { 'if-match': `"${open.record.revision}"`, 'idempotency-key': randomUUID() },
    );
    expect(saved.status).toBe(200);
    expect(saved.body.record).toMatchObject({ due: '2026-12-03', arrivedAt: open.record.arrivedAt });
    await tick();
    expect(await sentFor(id)).toEqual(['Soon']);
  }, 20_000);

  test('a date that is put off counts anew', async () => {
    goTo('2026-11-27T09:00:00Z');
    const id = await begin('timed', { back: '2026-11-30' });
    const put = async (back: string) => {
      const { record } = await shown(id);
      return registrar(
        'POST',
        `/api/records/${id}/hand-offs`,
        { handOff: 'save', values: { back } },
        { 'if-match': `"${record.revision}"`, 'idempotency-key': randomUUID() },
      );
    };
    expect((await put('2027-01-15')).body.record.due).toBe('2027-01-15');
    goTo('2026-12-10T09:00:00Z');
    await tick();
    expect(await shown(id)).toMatchObject({ record: { stage: 'work' } });
    expect(await sentFor(id)).toEqual([]);
  }, 20_000);
});

test('the clock is refused like anybody, says why once, and tries again when the record has changed', async () => {
  await publishDefinition(analyst, design('strict', 'back', { offeredWhen: 'seen != null' }));
  goTo('2026-11-27T09:00:00Z');
  const id = await begin('strict', { back: '2026-11-30' });
  goTo('2026-12-05T09:00:00Z');
  await eventually(
    () => shown(id),
    (found) => typesOf(found).includes('clock-refused'),
  );
  await tick();
  const later = await shown(id);
  await tick();
  expect((await shown(id)).record.revision).toBe(later.record.revision);
  expect(typesOf(later).filter((type) => type === 'clock-refused')).toHaveLength(1);
  expect(later.history.at(-1)).toMatchObject({ handOff: 'Finish', from: 'Work', by: null, issues: ['hand-off/not-offered'] });
  await registrar(
    'POST',
    `/api/records/${id}/hand-offs`,
    { handOff: 'save', values: { seen: 'yes' } },
    { 'if-match': `"${later.record.revision}"`, 'idempotency-key': randomUUID() },
  );
  await eventually(
    () => shown(id),
    (found) => found.record.stage === 'done',
  );
}, 30_000);

test('what is the clock’s alone nobody presses, nor is it shown to anybody', async () => {
  await publishDefinition(analyst, design('alone', 'back', { byClock: { alone: true } }));
  goTo('2026-11-27T09:00:00Z');
  const id = await begin('alone', { back: '2026-12-30' });
  const { record, form } = await shown(id);
  expect(form.definition.handOffs.map(({ key }: { key: string }) => key)).toEqual(['save']);
  const pressed = await registrar(
    'POST',
    `/api/records/${id}/hand-offs`,
    { handOff: 'finish', values: {} },
    { 'if-match': `"${record.revision}"`, 'idempotency-key': randomUUID() },
  );
  expect(problemOf(pressed)).toMatchObject({ status: 422, details: ['finish: hand-off/not-allowed'] });
});

test('two clocks at the same records do each thing once', async () => {
  goTo('2026-11-27T09:00:00Z');
  const ids = await Promise.all(Array.from({ length: 12 }, () => begin('timed', { back: '2026-11-30' })));
  goTo('2026-12-20T09:00:00Z');
  await Promise.all([tick(), tick(), tick()]);
  for (const id of ids) {
    const found = await eventually(
      () => shown(id),
      ({ record }) => record.stage === 'done',
    );
    expect(typesOf(found)).toEqual(['handed-on', 'reminded', 'handed-on']);
    expect(await sentFor(id)).toEqual(['Late']);
  }
}, 30_000);

test('records that the clock sends in a circle wait in between, and others don’t for them', async () => {
  const back = { key: 'again', name: 'Again', from: 'work', otherwise: { to: 'other' }, byClock: {} };
  const forth = { key: 'forth', name: 'Forth', from: 'other', otherwise: { to: 'work' }, byClock: {} };
  const base = design('circle', 'today() - @"P1D"');
  const other = { key: 'other', name: 'Other', kind: 'work', tracks: ['main'], roles: ['registrar'], due: 'today() - @"P1D"' };
  const stages = [...base.stages.slice(0, 2).map((stage) => ({ ...stage, reminders: [] })), other, ...base.stages.slice(2)];
  await publishDefinition(analyst, { ...base, stages, handOffs: [...base.handOffs, back, forth] } as never);
  goTo('2026-11-27T09:00:00Z');
  const circling = await begin('circle', {});
  const id = await begin('timed', { back: '2026-11-23' });
  await eventually(
    () => shown(id),
    ({ record }) => record.stage === 'done',
  );
  const { pool } = server.server.context.database;
  const waits = async () =>
    (await pool.query('select clock_at > $2 as waits from records where id = $1', [circling, new Date(now).toISOString()]))
      .rows[0].waits;
  await eventually(waits, (isWaiting) => isWaiting === true);
  const { length } = (await shown(circling)).history;
  expect(length).toBeGreaterThan(40);
  await tick();
  expect((await shown(circling)).history).toHaveLength(length);
}, 40_000);

describe('the working calendar', () => {
  const put = (call: Call, calendar: unknown) => call('PUT', '/api/calendar', calendar);
  test('is changed by administrators, told to everybody, and counted in at once', async () => {
    const session = async (call: Call) => (await call('GET', '/api/session')).body.workspace.calendar;
    const before = await session(registrar);
    expect(before.week.monday).toEqual([{ from: '09:00', to: '17:00' }]);
    const calendar = { ...before, holidays: [{ date: '2026-11-30', name: 'Closed' }] };
    expect((await put(registrar, calendar)).status).toBe(403);
    expect((await put(analyst, calendar)).status).toBe(200);
    expect(await session(registrar)).toEqual(calendar);
    await publishDefinition(analyst, design('counted', 'working days(today(), 1)'));
    goTo('2026-11-27T09:00:00Z');
    expect((await shown(await begin('counted', {}))).record.due).toBe('2026-12-01');
    await put(analyst, before);
  });
  test.each<[string, unknown]>([
    [
      'hours that overlap',
      {
        week: {
          monday: [
            { from: '09:00', to: '12:00' },
            { from: '11:00', to: '13:00' },
          ],
          tuesday: [],
          wednesday: [],
          thursday: [],
          friday: [],
          saturday: [],
          sunday: [],
        },
      },
    ],
    ['no working day', { week: { monday: [], tuesday: [], wednesday: [], thursday: [], friday: [], saturday: [], sunday: [] } }],
    ['a day that is none', { holidays: [{ date: '2027-02-29' }] }],
    ['too many holidays', { holidays: Array.from({ length: 1001 }, () => ({ date: '2027-01-01' })) }],
  ])('with %s is refused', async (_, calendar) => {
    expect((await put(analyst, calendar)).status).toBe(400);
  });
});

test('with hundreds of records due at once each is done, and nothing of other records is touched', async () => {
  goTo('2026-11-27T09:00:00Z');
  const id = await begin('timed', { back: '2026-12-01' });
  const { pool } = server.server.context.database;
  await pool.query(
    `insert into records (id, workflow, version, number, stage, stage_kind, intake, track, waiting_roles, submitted_by, values, revision, created_at, arrived_at, due, due_at, clock_at)
     select gen_random_uuid(), workflow, version, number || '-' || n, stage, stage_kind, intake, track, waiting_roles, submitted_by, values, 1, created_at, arrived_at, due, due_at, clock_at
     from records, generate_series(1, 300) n where id = $1`,
    [id],
  );
  goTo('2026-12-04T09:00:00Z');
  const left = async () =>
    (
      await pool.query(
        `select count(*)::int as n from records where workflow = 'timed' and stage = 'work' and values ->> 'back' = '2026-12-01'`,
      )
    ).rows[0].n;
  await eventually(left, (n) => n === 0, 60);
  const { rows } = await pool.query(`select count(*)::int as n from deliveries where subject = 'Late' and created_at > $1`, [
    new Date(START + 24 * HOUR).toISOString(),
  ]);
  expect(rows[0].n).toBeGreaterThanOrEqual(301);
}, 90_000);

describe('pages that answers lead to', () => {
  const put = (call: Call, addresses: readonly string[]) => call('PUT', '/api/next-pages', { addresses });
  const NEXT = 'https://museum.example/visit';
  const designed = (key: string, next: string) => ({
    ...design(key, 'today()'),
    handOffs: [
      {
        key: 'send',
        name: 'Send',
        from: 'ask',
        otherwise: { to: 'work' },
        acknowledgements: [{ key: 'thanks', name: 'Thanks', text: 'We have {{record.number}}.', next, mailed: true }],
      },
    ],
  });

  test('are the administrators’; designs that lead elsewhere aren’t published', async () => {
    expect((await put(registrar, [NEXT])).status).toBe(403);
    for (const bad of ['http://museum.example', 'javascript:alert(1)', 'https://museum.example?x', 'https://a@b.example'])
      expect((await put(analyst, [bad])).status).toBe(400);
    expect((await put(analyst, [NEXT])).body.nextPages).toEqual([NEXT]);
    await expect(publishDefinition(analyst, designed('elsewhere', 'https://other.example/x'))).rejects.toThrow(
      'answer/next-page',
    );
  });

  test('are offered with the answer, which is mailed on wish; taken off the list they are offered no more', async () => {
    await put(analyst, [NEXT]);
    await publishDefinition(analyst, designed('thanked', `${NEXT}?loan={{record.number}}`));
    const begun = async () =>
      (await registrar('POST', '/api/intakes/thanked/records', { stage: 'ask', handOff: 'send', values: {} })).body;
    const first = await begun();
    expect(first.next).toBe(`${NEXT}?loan=${first.record.number}`);
    const { rows } = await server.server.context.database.pool.query(
      'select name, recipients from deliveries where record = $1',
      [first.record.id],
    );
    expect(rows).toEqual([{ name: 'Thanks', recipients: ['rufus@lindenmuseum.invalid'] }]);
    await put(analyst, []);
    const second = await begun();
    expect(second).toMatchObject({ next: null, acknowledgement: expect.anything() });
  });
});
