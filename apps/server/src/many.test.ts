import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { type HandedOnRow, MAX_HANDED_ON, type TakenBackRow } from '@ypomet/contract';
import { type Call, eventually, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

// Many records handed on at once: each as if its button were pressed, and each once.
let server: TestServer;
let registrar: Call;
let conservator: Call;
const ids: Record<string, string> = {};

const DESIGN = {
  format: 'ypomet.workflow/1',
  key: 'batch',
  name: 'Batch',
  roles: [
    { key: 'registrar', name: 'Registrar' },
    { key: 'conservator', name: 'Conservator' },
  ],
  sections: [{ key: 'all', name: 'All' }],
  fields: [
    { key: 'worth', name: 'Worth', section: 'all', type: 'number', treatment: 'optional' },
    { key: 'note', name: 'Note', section: 'all', type: 'text', treatment: 'optional' },
  ],
  plan: { note: { work: 'required' } },
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'], roles: ['registrar'] },
    { key: 'work', name: 'Work', kind: 'work', tracks: ['main'], roles: ['registrar'] },
    { key: 'big', name: 'Big', kind: 'work', tracks: ['main'], roles: ['conservator'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  handOffs: [
    { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'work' } },
    {
      key: 'pass',
      name: 'Pass',
      from: 'work',
      branches: [{ key: 'big', name: 'Big', when: 'worth >= 100', to: 'big' }],
      otherwise: { to: 'done' },
      deliveries: [
        { kind: 'mail', key: 'tell', name: 'Tell', to: [{ kind: 'role', role: 'registrar' }], subject: 'Passed', body: 'It is.' },
      ],
    },
    { key: 'drop', name: 'Drop', from: 'work', checking: 'none', offeredWhen: 'worth < 100', otherwise: { to: 'done' } },
  ],
};

beforeAll(async () => {
  server = await TestServer.make();
  [registrar, conservator] = await Promise.all([server.as('registrar'), server.as('conservator')]);
  await publishDefinition(await server.as('analyst'), DESIGN);
  for (const [name, values] of Object.entries({
    small: { worth: '5', note: 'a' },
    big: { worth: '500', note: 'b' },
    bare: { worth: '6' },
    twice: { worth: '7', note: 'c' },
    given: { worth: '8' },
  })) {
    const { body } = await registrar('POST', '/api/intakes/batch/records', { stage: 'ask', handOff: 'send', values });
    ids[name] = body.record.id;
  }
});
afterAll(() => server.close());

const idOf = (name: string): string => ids[name] ?? '';
const NAMES = ['small', 'big', 'bare'] as const;
const at = (names: readonly string[], revision = 1) => names.map((name) => ({ id: idOf(name), revision }));
const send = (call: Call, records: readonly object[], more: object = {}) =>
  call('POST', '/api/hand-offs', { handOff: 'pass', run: randomUUID(), isTrial: false, records, ...more });
const told = async (call: Call, records: readonly object[], more: object = {}) =>
  ((await send(call, records, more)).body.rows as readonly HandedOnRow[]).map(
    ({ id, isHandedOn, stageName, wouldSend, issues }) => [
      Object.keys(ids).find((name) => ids[name] === id) ?? id,
      isHandedOn,
      stageName,
      wouldSend,
      issues.map(({ code }) => code).join(),
    ],
  );
const stageOf = async (name: string) => (await registrar('GET', `/api/records/${idOf(name)}`)).body.record.stage;

describe('many records', () => {
  test('say which hand-offs are offered on each: by who asks, and by their values', async () => {
    const offered = async (call: Call) => {
      const { body } = await call('POST', '/api/hand-offs/offered', { records: [...NAMES.map(idOf), randomUUID(), idOf('big')] });
      return body.map(({ handOffs }: { handOffs: { key: string }[] }) => handOffs.map(({ key }) => key).join());
    };
    expect(await offered(registrar)).toEqual(['pass,drop', 'pass', 'pass,drop']);
    // Who acts elsewhere in the workflow sees them, and has nothing to press.
    expect(await offered(conservator)).toEqual(['', '', '']);
    expect(await offered(await server.as('borrower'))).toEqual([]);
  });

  test('are tried out: nothing moves, is written or sent', async () => {
    expect(await told(registrar, at(NAMES), { isTrial: true })).toEqual([
      ['small', true, 'Done', 1, ''],
      ['big', true, 'Big', 1, ''],
      ['bare', false, null, 0, 'form/required'],
    ]);
    expect(await Promise.all(NAMES.map(stageOf))).toEqual(['work', 'work', 'work']);
    const { pool } = server.server.context.database;
    expect(
      (await pool.query('select 1 from deliveries d join records r on r.id = d.record where r.workflow = $1', ['batch'])).rows,
    ).toEqual([]);
  });

  test('take the same value entered for each; who may not enter it there is refused with its name', async () => {
    const values = { note: 'As agreed.' };
    expect(await told(registrar, at(['bare']), { isTrial: true, values })).toEqual([['bare', true, 'Done', 1, '']]);
    expect(await told(registrar, at(['small']), { isTrial: true, values: { worth: '700' } })).toEqual([
      ['small', true, 'Big', 1, ''],
    ]);
    const [[, isHandedOn, , , codes] = []] = await told(registrar, at(['bare']), { isTrial: true, values: { nothing: 'x' } });
    expect([isHandedOn, codes]).toEqual([false, 'hand-off/unknown-field']);
    const run = randomUUID();
    expect(await told(registrar, at(['given']), { run, values })).toEqual([['given', true, 'Done', 0, '']]);
    expect((await registrar('GET', `/api/records/${idOf('given')}/shown`)).body.values.note).toBe('As agreed.');
    // Another value under the same run would be another act.
    expect(await told(registrar, at(['given']), { run, values: { note: 'Otherwise.' } })).toEqual([
      ['given', false, null, 0, 'request/idempotency-mismatch'],
    ]);
  });

  test('go on, each by itself; sent again they go on once', async () => {
    const run = randomUUID();
    const first = await told(registrar, at(NAMES), { run });
    expect(first.map(([name, isHandedOn]) => [name, isHandedOn])).toEqual([
      ['small', true],
      ['big', true],
      ['bare', false],
    ]);
    expect(await told(registrar, at(NAMES), { run })).toEqual(first);
    expect(await Promise.all(NAMES.map(stageOf))).toEqual(['done', 'big', 'work']);
    expect(await told(registrar, at(['bare']), { handOff: 'drop' })).toEqual([['bare', true, 'Done', 0, '']]);
  });

  test('are refused one by one: changed meanwhile, not there, not offered, not theirs', async () => {
    expect(await told(registrar, [...at(['twice'], 0), { id: randomUUID(), revision: 1 }, ...at(['big'], 2)])).toEqual([
      ['twice', false, null, 0, 'revision/stale'],
      [expect.any(String), false, null, 0, 'thing/not-found'],
      ['big', false, null, 0, 'hand-off/not-here'],
    ]);
    expect(await told(conservator, at(['twice']), { isTrial: true })).toEqual([
      ['twice', false, null, 0, 'hand-off/not-allowed'],
    ]);
    expect(await told(await server.as('borrower'), at(['twice']))).toEqual([['twice', false, null, 0, 'thing/not-found']]);
    expect(await stageOf('twice')).toBe('work');
  });

  describe('are taken back by whoever handed them on', () => {
    const begin = async (values: object): Promise<string> =>
      (await registrar('POST', '/api/intakes/batch/records', { stage: 'ask', handOff: 'send', values })).body.record.id;
    const handOn = async (records: readonly string[]): Promise<readonly HandedOnRow[]> =>
      (
        await send(
          registrar,
          records.map((id) => ({ id, revision: 1 })),
        )
      ).body.rows;
    const takeBack = async (call: Call, records: readonly object[]) => {
      const { body } = await call('POST', '/api/hand-offs/taken-back', { records });
      return body.rows.map(({ isTakenBack, issues }: TakenBackRow) => (isTakenBack ? 'taken back' : issues[0]?.code));
    };
    const shown = async (id: string) => (await registrar('GET', `/api/records/${id}`)).body;
    const deliveriesOf = async (id: string) =>
      (await server.server.context.database.pool.query('select status from deliveries where record = $1', [id])).rows;

    test('as they were before, with nothing sent; their history tells both', async () => {
      const ids = [await begin({ worth: '5', note: 'a' }), await begin({ worth: '500', note: 'b' })];
      const before = await Promise.all(ids.map(shown));
      const rows = await handOn(ids);
      expect(rows.map(({ revision }) => revision)).toEqual([2, 2]);
      expect(await Promise.all(ids.map(deliveriesOf))).toEqual([[{ status: 'queued' }], [{ status: 'queued' }]]);
      expect(
        await takeBack(
          registrar,
          rows.map(({ id, revision }) => ({ id, revision })),
        ),
      ).toEqual(['taken back', 'taken back']);
      for (const [index, id] of ids.entries()) {
        const after = await shown(id);
        expect(after.form).toEqual(before[index].form);
        expect(after.record).toEqual({ ...before[index].record, revision: 3 });
        expect(after.history.map(({ type }: { type: string }) => type)).toEqual(['handed-on', 'handed-on', 'taken-back']);
        expect(await deliveriesOf(id)).toEqual([]);
      }
      // They are handed on anew like any other, and taken back once only.
      expect(await takeBack(registrar, [{ id: ids[0], revision: 3 }])).toEqual(['take-back/too-late']);
      const [again] = (await send(registrar, [{ id: ids[0], revision: 3 }])).body.rows;
      expect([again.isHandedOn, again.stageName]).toEqual([true, 'Done']);
    });

    test('not by others, not after somebody went on, not once something may have been sent, not after ten minutes', async () => {
      const { pool } = server.server.context.database;
      const ids = await Promise.all(Array.from({ length: 4 }, () => begin({ worth: '500', note: 'b' })));
      const rows = await handOn(ids);
      const one = (index: number) => [{ id: ids[index], revision: rows[index]?.revision }];
      expect(await takeBack(conservator, one(0))).toEqual(['take-back/too-late']);
      await conservator('PUT', `/api/records/${ids[1]}/assignee`, { kind: 'take' }, { 'if-match': '"2"' });
      expect(await takeBack(registrar, one(1))).toEqual(['take-back/too-late']);
      await pool.query('update deliveries set next_at = now() where record = $1', [ids[2]]);
      expect(await takeBack(registrar, one(2))).toEqual(['take-back/too-late']);
      expect(await deliveriesOf(ids[2] ?? '')).toHaveLength(1);
      await pool.query(`update reversible_hand_offs set at = at - interval '11 minutes' where record = $1`, [ids[3]]);
      expect(await takeBack(registrar, [...one(3), { id: randomUUID(), revision: 2 }])).toEqual([
        'take-back/too-late',
        'take-back/too-late',
      ]);
      expect((await shown(ids[0] ?? '')).record.stage).toBe('big');
    });

    test('what is held back goes out when its minute is over', async () => {
      const id = await begin({ worth: '5', note: 'a' });
      await handOn([id]);
      const { pool } = server.server.context.database;
      const { rows } = await pool.query(
        "select j.run_at > now() + interval '50 seconds' as held from graphile_worker.jobs j join deliveries d on d.id::text = j.key where d.record = $1",
        [id],
      );
      expect(rows).toEqual([{ held: true }]);
      await pool.query('update deliveries set next_at = now() where record = $1', [id]);
      await pool.query(
        'update graphile_worker._private_jobs set run_at = now() where key = (select id::text from deliveries where record = $1)',
        [id],
      );
      await eventually(
        () => deliveriesOf(id),
        ([delivery]) => delivery.status === 'sent',
      );
    });
  });

  test('have a most', async () => {
    const records = Array.from({ length: MAX_HANDED_ON + 1 }, () => ({ id: randomUUID(), revision: 1 }));
    for (const more of [{ records }, { records: [] }, { run: 'x' }])
      expect(problemOf(await send(registrar, at(['twice']), more)).code).toBe('request/invalid');
    expect(problemOf(await registrar('POST', '/api/hand-offs/offered', { records: records.map(({ id }) => id) })).code).toBe(
      'request/invalid',
    );
  });
});
