import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { type HandedOnRow, MAX_HANDED_ON } from '@ypomet/contract';
import { type Call, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

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

  test('have a most', async () => {
    const records = Array.from({ length: MAX_HANDED_ON + 1 }, () => ({ id: randomUUID(), revision: 1 }));
    for (const more of [{ records }, { records: [] }, { run: 'x' }])
      expect(problemOf(await send(registrar, at(['twice']), more)).code).toBe('request/invalid');
    expect(problemOf(await registrar('POST', '/api/hand-offs/offered', { records: records.map(({ id }) => id) })).code).toBe(
      'request/invalid',
    );
  });
});
