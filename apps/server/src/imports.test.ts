import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { type ImportedRow, MAX_IMPORTED } from '@ypomet/contract';
import { type Call, eventually, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

// Many records at once: each as if it were begun by hand, and each once.
let server: TestServer;
let analyst: Call;
let registrar: Call;

const DESIGN = {
  format: 'ypomet.workflow/1',
  key: 'gift',
  name: 'Gift',
  numbering: 'G-{number:4}',
  roles: [{ key: 'registrar', name: 'Registrar' }],
  sections: [{ key: 'all', name: 'All' }],
  fields: [
    { key: 'giver', name: 'Giver', section: 'all', type: 'text', treatment: 'required', maxLength: 20 },
    { key: 'worth', name: 'Worth', section: 'all', type: 'money', currency: 'EUR', treatment: 'optional' },
    { key: 'secret', name: 'Secret', section: 'all', type: 'text', treatment: 'hidden' },
  ],
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'], roles: ['registrar'] },
    { key: 'big', name: 'Big gifts', kind: 'work', tracks: ['main'], roles: ['registrar'] },
    { key: 'small', name: 'Small gifts', kind: 'work', tracks: ['main'], roles: ['registrar'] },
  ],
  handOffs: [
    {
      key: 'send',
      name: 'Send',
      from: 'ask',
      branches: [{ key: 'big', name: 'Big', when: 'worth >= 1000', to: 'big' }],
      otherwise: { to: 'small' },
      deliveries: [
        {
          kind: 'mail',
          key: 'tell',
          name: 'Tell',
          when: 'worth >= 1000',
          to: [{ kind: 'role', role: 'registrar' }],
          subject: 'A gift of {{giver}}',
          body: 'Look at it.',
        },
      ],
      followUps: [
        {
          key: 'thank',
          name: 'Thank',
          when: 'worth = 5000',
          workflow: 'thanks',
          handOff: 'go',
          carried: [{ field: 'giver', value: 'giver' }],
        },
      ],
    },
  ],
};
/** What a gift of exactly 5,000 opens. */
const THANKS = {
  format: 'ypomet.workflow/1',
  key: 'thanks',
  name: 'Thanks',
  roles: [{ key: 'registrar', name: 'Registrar' }],
  sections: [{ key: 'all', name: 'All' }],
  fields: [{ key: 'giver', name: 'Giver', section: 'all', type: 'text', treatment: 'optional' }],
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'begin', name: 'Begin', kind: 'intake', tracks: ['main'], roles: ['registrar'] },
    { key: 'write', name: 'Write', kind: 'work', tracks: ['main'], roles: ['registrar'] },
  ],
  handOffs: [
    {
      key: 'go',
      name: 'Go',
      from: 'begin',
      otherwise: { to: 'write' },
      deliveries: [
        {
          kind: 'mail',
          key: 'tell',
          name: 'Tell',
          to: [{ kind: 'role', role: 'registrar' }],
          subject: 'A thank-you to {{giver}}',
          body: 'Write it.',
        },
      ],
    },
  ],
};

beforeAll(async () => {
  server = await TestServer.make();
  [analyst, registrar] = await Promise.all([server.as('analyst'), server.as('registrar')]);
  await publishDefinition(analyst, THANKS);
  await publishDefinition(analyst, DESIGN);
});
afterAll(() => server.close());

type Row = { readonly line: number; readonly values: Readonly<Record<string, unknown>> };
const send = (call: Call, rows: readonly Row[], more: object = {}) =>
  call('POST', '/api/intakes/gift/ask/imports', { handOff: 'send', run: randomUUID(), isTrial: false, rows, ...more });
const rowsOf = async (rows: readonly Row[], more: object = {}): Promise<readonly ImportedRow[]> =>
  (await send(registrar, rows, more)).body.rows;
const count = async (): Promise<number> => {
  const { pool } = server.server.context.database;
  return (await pool.query(`select count(*)::int as n from records where workflow = 'gift'`)).rows[0].n;
};

const MIXED: readonly Row[] = [
  { line: 2, values: { giver: 'Ada', worth: '1000' } },
  { line: 3, values: { giver: '' } },
  { line: 4, values: { giver: 'Bo', worth: 'much' } },
  { line: 5, values: { giver: 'Cy', secret: 'x' } },
  { line: 6, values: { giver: 'x'.repeat(21) } },
  { line: 7, values: { giver: '=1+1', worth: '999.99' } },
];

describe('rows of a sheet', () => {
  test('are tried out as they would be begun, and nothing is stored, numbered or sent', async () => {
    const rows = await rowsOf(MIXED, { isTrial: true });
    expect(rows.map(({ line, isBegun, stageName, wouldSend }) => [line, isBegun, stageName, wouldSend])).toEqual([
      [2, true, 'Big gifts', 1],
      [3, false, null, 0],
      [4, false, null, 0],
      [5, false, null, 0],
      [6, false, null, 0],
      [7, true, 'Small gifts', 0],
    ]);
    expect(rows.map(({ issues }) => issues.map(({ code, field }) => [code, field]))).toMatchInlineSnapshot(`
[
  [],
  [
    [
      "form/required",
      "giver",
    ],
  ],
  [
    [
      "value/wrong-type",
      null,
    ],
  ],
  [
    [
      "hand-off/unknown-field",
      null,
    ],
  ],
  [
    [
      "form/too-long",
      "giver",
    ],
  ],
  [],
]
`);
    expect(await count()).toBe(0);
  });

  test('begin, each by itself: those that are refused hold up no others; a formula stays text', async () => {
    const rows = await rowsOf(MIXED);
    expect(rows.map(({ number }) => number)).toEqual(['G-0001', null, null, null, null, 'G-0002']);
    expect(await count()).toBe(2);
    const { pool } = server.server.context.database;
    const { rows: kept } = await pool.query(`select values from records where workflow = 'gift' and number = 'G-0002'`);
    expect(kept[0].values).toMatchObject({ giver: '=1+1', worth: '999.99' });
  });

  test('begin without mails where that is wanted: each says that its mails were put away, and by whom', async () => {
    const row = { line: 2, values: { giver: 'Ada', worth: '1000' } };
    const trial = await rowsOf([row], { isTrial: true, mails: 'none' });
    expect(trial.map(({ isBegun, wouldSend }) => [isBegun, wouldSend])).toEqual([[true, 0]]);
    const [begun] = await rowsOf([row], { mails: 'none' });
    const { pool } = server.server.context.database;
    const { rows } = await pool.query(
      `select d.status, d.fault, (select count(*)::int from graphile_worker.jobs j where j.key = d.id::text) as jobs
       from deliveries d join records r on r.id = d.record where r.number = $1 and r.workflow = 'gift'`,
      [begun?.number],
    );
    const params = { by: 'Rufus Okonjo', reason: 'It was begun from a sheet, without mails.' };
    expect(rows).toEqual([{ status: 'put-away', fault: { code: 'put-away', params }, jobs: 0 }]);
    expect(problemOf(await send(registrar, [row], { mails: 'some' })).code).toBe('request/invalid');
  });

  test('begin with one mail for the same receivers in place of several, those of the records that they open among them', async () => {
    const run = randomUUID();
    const rows = ['Ann', 'Bo', 'Cy'].map((giver, index) => ({ line: index + 2, values: { giver, worth: '5000' } }));
    await rowsOf(rows, { run, mails: 'digest' });
    const { pool } = server.server.context.database;
    const mails = async (): Promise<readonly { id: string; subject: string }[]> =>
      (await analyst('GET', '/api/standins/mailbox')).body.entries;
    const list = async () =>
      (await pool.query(`select id, status, subject from deliveries where digest = $1 order by sequence`, [run])).rows;
    const queued = await list();
    expect(queued.map(({ subject }) => subject)).toEqual([
      'A gift of Ann',
      'A thank-you to Ann',
      'A gift of Bo',
      'A thank-you to Bo',
      'A gift of Cy',
      'A thank-you to Cy',
    ]);
    // While rows are being added, nothing is sent: a mail whose time has come is put off again.
    const waits = async () =>
      (
        await pool.query(`select next_at < now() + interval '31 seconds' as waits, status from deliveries where id = $1`, [
          queued[0].id,
        ])
      ).rows[0].waits;
    await pool.query('update graphile_worker._private_jobs set run_at = now() where key = $1', [queued[0].id]);
    await eventually(waits, (found) => found);
    expect((await list()).map(({ status }) => status)).toEqual(Array(6).fill('queued'));

    const before = await mails();
    await pool.query('update deliveries set next_at = now() where digest = $1', [run]);
    await pool.query('update graphile_worker._private_jobs set run_at = now() where key = $1', [queued[3].id]);
    await eventually(list, (found) => found.every(({ status }) => status === 'sent'));
    const sent = (await mails()).filter(({ id }) => !before.some((known) => known.id === id));
    expect(sent.map(({ subject }) => subject)).toEqual(['6 messages about new records']);
    const { text } = (await analyst('GET', `/api/standins/mailbox/${sent[0]?.id}`)).body;
    expect(text).toMatch(/A gift of Ann[\s\S]*Look at it\.[\s\S]*A thank-you to Ann[\s\S]*A gift of Cy/);
  });

  test('sent again in the same run begin nothing again; another row under the line of one is told so', async () => {
    const before = await count();
    const run = randomUUID();
    const row = { line: 2, values: { giver: 'Di' } };
    const [first] = await rowsOf([row], { run });
    const [again] = await rowsOf([row], { run });
    expect(again).toEqual(first);
    const [other] = await rowsOf([{ line: 2, values: { giver: 'Ed' } }], { run });
    expect(other?.issues.map(({ code }) => code)).toEqual(['request/idempotency-mismatch']);
    await Promise.all([rowsOf([{ ...row, line: 3 }], { run }), rowsOf([{ ...row, line: 3 }], { run })]);
    expect(await count()).toBe(before + 2);
  });

  test('are begun by whoever may begin one, and by nobody else', async () => {
    const conservator = await server.as('conservator');
    for (const isTrial of [true, false])
      expect(problemOf(await send(conservator, [{ line: 1, values: { giver: 'A' } }], { isTrial })).code).toBe('thing/not-found');
    const elsewhere = await registrar('POST', '/api/intakes/gift/small/imports', {
      handOff: 'send',
      run: randomUUID(),
      isTrial: true,
      rows: MIXED,
    });
    expect(problemOf(elsewhere).code).toBe('thing/not-found');
  });

  test.each([
    ['too many rows', { rows: Array.from({ length: MAX_IMPORTED + 1 }, (_, line) => ({ line: line + 1, values: {} })) }],
    ['no rows', { rows: [] }],
    ['a line below one', { rows: [{ line: 0, values: {} }] }],
    ['a run without a name', { run: 'x' }],
    ['something else beside', { force: true }],
  ])('a request with %s is refused whole', async (_name, more) => {
    expect(problemOf(await send(registrar, [{ line: 1, values: {} }], more)).code).toBe('request/invalid');
  });

  test('a hand-off that isn’t there refuses each row', async () => {
    const [row] = await rowsOf([{ line: 1, values: { giver: 'A' } }], { handOff: 'gone' });
    expect(row).toMatchObject({ isBegun: false, issues: [expect.objectContaining({ code: expect.stringMatching(/hand-off/) })] });
  });
});

describe('members and records that rows name', () => {
  const ROLES = ['registrar', 'conservator', 'director'].map((key) => ({ key, name: key }));
  const byName = ['keeper', 'loan', 'objects.seenBy'];
  const named = {
    ...DESIGN,
    key: 'deposit',
    name: 'Deposit',
    numbering: 'D-{number:4}',
    roles: ROLES,
    fields: [
      { key: 'keeper', name: 'Keeper', section: 'all', type: 'member', treatment: 'optional' },
      { key: 'loan', name: 'Loan', section: 'all', type: 'reference', workflow: 'deposit', treatment: 'optional' },
      { key: 'worth', name: 'Worth', section: 'all', type: 'money', currency: 'EUR', treatment: 'optional' },
      {
        key: 'objects',
        name: 'Objects',
        section: 'all',
        type: 'table',
        treatment: 'optional',
        fields: [{ key: 'seenBy', name: 'Seen by', type: 'member', role: 'conservator' }],
      },
    ],
    handOffs: [{ key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'small' } }],
  };
  const begin = async (rows: readonly Row[], more: object = {}): Promise<readonly ImportedRow[]> => {
    const body = { handOff: 'send', run: randomUUID(), isTrial: false, byName, rows, ...more };
    return (await registrar('POST', '/api/intakes/deposit/ask/imports', body)).body.rows;
  };
  const whyOf = (rows: readonly ImportedRow[]) =>
    rows.map(({ issues }) => issues.map(({ code, path, message }) => [code, path, message]));
  const pool = () => server.server.context.database.pool;
  const add = (name: string, email: string, roles: readonly string[], isGuest = false) =>
    pool().query('insert into members (id, name, email, roles, password_hash, is_guest) values ($1, $2, $3, $4, $5, $6)', [
      randomUUID(),
      name,
      email,
      roles,
      'x',
      isGuest,
    ]);

  beforeAll(async () => {
    await publishDefinition(await server.as('analyst'), named);
    await add('Uma Twice', 'uma.one@lindenmuseum.invalid', ['conservator']);
    await add('Uma Twice', 'uma.two@lindenmuseum.invalid', ['conservator']);
    await add('Gus Guest', 'gus@guest.invalid', ['conservator'], true);
  });

  test('are found by name, mail address or number, also in the rows of tables, whatever the capitals', async () => {
    const [first] = await begin([{ line: 2, values: { keeper: 'rufus okonjo', worth: '1' } }]);
    const objects = [{ id: 'l3', values: { seenBy: 'UMA.TWO@lindenmuseum.invalid' } }];
    const [second] = await begin([{ line: 3, values: { keeper: 'Carla Wendt', loan: first?.number, objects } }]);
    expect(whyOf([first, second] as ImportedRow[])).toEqual([[], []]);
    const { rows } = await pool().query(
      `select (select name from members where id::text = r.values ->> 'keeper') as keeper,
        (select number from records where id::text = r.values ->> 'loan') as loan,
        (select email from members where id::text = r.values #>> '{objects,0,values,seenBy}') as seen_by
       from records r where number = $1`,
      [second?.number],
    );
    expect(rows).toEqual([{ keeper: 'Carla Wendt', loan: first?.number, seen_by: 'uma.two@lindenmuseum.invalid' }]);
  });

  test('are told where they are nobody, nothing, several, of another role, or not to be seen; the other rows stand', async () => {
    const objects = (seenBy: string) => [{ id: 'a', values: { seenBy } }];
    const [loan] = (await pool().query(`select number from records where workflow = 'objectLoan' limit 1`)).rows;
    const rows = await begin(
      [
        { line: 2, values: { keeper: 'Rufus' } },
        { line: 3, values: { keeper: 'Uma Twice', loan: 'D-9999' } },
        { line: 4, values: { objects: objects('Rufus Okonjo') } },
        { line: 5, values: { objects: objects('Gus Guest') } },
        { line: 6, values: { loan: loan.number } },
        { line: 7, values: { keeper: 7 } },
        { line: 8, values: { keeper: 'x'.repeat(300) } },
        { line: 9, values: { worth: '1' } },
      ],
      { isTrial: true },
    );
    expect(whyOf(rows)).toEqual([
      [['import/none-named', 'keeper', 'Keeper: nothing that can be chosen here is called “Rufus”.']],
      [
        ['import/several-named', 'keeper', 'Keeper: several members are called “Uma Twice”.'],
        ['import/none-named', 'loan', 'Loan: nothing that can be chosen here is called “D-9999”.'],
      ],
      [['import/none-named', 'objects.seenBy', 'Seen by: nothing that can be chosen here is called “Rufus Okonjo”.']],
      [['import/none-named', 'objects.seenBy', 'Seen by: nothing that can be chosen here is called “Gus Guest”.']],
      [['import/none-named', 'loan', `Loan: nothing that can be chosen here is called “${loan.number}”.`]],
      [['value/wrong-type', expect.anything(), expect.anything()]],
      [['import/none-named', 'keeper', `Keeper: nothing that can be chosen here is called “${'x'.repeat(40)}”.`]],
      [],
    ]);
  });

  test.each([['worth'], ['secret'], ['objects'], ['__proto__'], ['constructor.name']])('can’t stand in “%s”', async (path) => {
    const body = {
      handOff: 'send',
      run: randomUUID(),
      isTrial: true,
      byName: [path],
      rows: [{ line: 1, values: { worth: '1' } }],
    };
    const answer = await registrar('POST', '/api/intakes/deposit/ask/imports', body);
    expect(problemOf(answer).code).toBe('thing/not-found');
  });
});
