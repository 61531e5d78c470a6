import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { RATES, type RegisterEntry } from '@ypomet/contract';
import { parse } from 'csv-parse/sync';
import readSheet from 'read-excel-file/node';
import { type Call, problemOf, publishDefinition, TestServer } from './testing/test-server.ts';

// The records of a workflow, for those who have a right to its register: searched, ordered, totalled, exported, kept as views.
let now = Date.parse('2026-11-27T09:00:00Z');
let server: TestServer;
let analyst: Call;
let registrar: Call;
let director: Call;
let conservator: Call;

const options = [
  { code: 'lend', label: 'We lend' },
  { code: 'ask', label: 'We ask' },
];
const DESIGN = {
  format: 'ypomet.workflow/1',
  key: 'listed',
  name: 'Listed',
  roles: [
    { key: 'registrar', name: 'Registrar', register: 'shown' },
    { key: 'director', name: 'Director', register: 'all' },
    { key: 'conservator', name: 'Conservator' },
  ],
  sections: [{ key: 'all', name: 'All' }],
  fields: [
    { key: 'name', name: 'Name', type: 'text' },
    { key: 'worth', name: 'Worth', type: 'money', currency: 'EUR' },
    { key: 'kind', name: 'Kind', type: 'choice', options },
    { key: 'back', name: 'Back', type: 'date' },
    { key: 'secret', name: 'Secret', type: 'text', confidentialTo: ['director'] },
    { key: 'now', name: 'Now', type: 'text', expression: 'if worth > 200 then "much" else "little"' },
    { key: 'aside', name: 'Aside', type: 'text' },
    { key: 'rows', name: 'Rows', type: 'table', fields: [{ key: 'title', name: 'Title', type: 'text' }] },
  ].map((field) => ({ section: 'all', treatment: 'optional', ...field })),
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [
    { key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'], roles: ['director'] },
    { key: 'work', name: 'Work', kind: 'work', tracks: ['main'], roles: ['registrar'] },
    { key: 'done', name: 'Done', kind: 'end', tracks: ['main'] },
  ],
  plan: { aside: { work: 'hidden' } },
  handOffs: [
    { key: 'send', name: 'Send', from: 'ask', otherwise: { to: 'work' } },
    { key: 'close', name: 'Close', from: 'ask', otherwise: { to: 'done' } },
    { key: 'end', name: 'End', from: 'work', otherwise: { to: 'done' } },
  ],
};

const begin = async (handOff: string, values: object): Promise<void> => {
  now += 60_000;
  const { status } = await director('POST', '/api/intakes/listed/records', { stage: 'ask', handOff, values });
  expect(status).toBe(201);
};

beforeAll(async () => {
  server = await TestServer.make({ clock: () => now });
  [analyst, registrar, director, conservator] = await Promise.all([
    server.as('analyst'),
    server.as('registrar'),
    server.as('director'),
    server.as('conservator'),
  ]);
  await publishDefinition(analyst, DESIGN);
  await begin('send', { name: 'Äpfel', worth: '100', kind: 'ask', back: '2026-12-01', secret: 'sesame', aside: 'far' });
  await begin('send', { name: 'birne', worth: '1000.5', kind: 'lend', rows: [{ id: 'a', values: { title: 'Lamp' } }] });
  await begin('send', { name: '=SUM(A1)', worth: '-3' });
  await begin('close', { name: 'Zebra', worth: '101', kind: 'lend', back: '2027-02-01' });
  await begin('send', {});
});
afterAll(() => server.close());

const records = async (call: Call, query = '') => {
  const answer = await call('GET', `/api/registers/listed/records?${query}`);
  return { ...answer, entries: (answer.body.entries ?? []) as readonly RegisterEntry[] };
};
const namesFor = async (call: Call, query = ''): Promise<readonly unknown[]> =>
  (await records(call, query)).entries.map(({ values }) => values.name ?? null);
const filter = (text: string): string => `filter=${encodeURIComponent(text)}`;

describe('a register', () => {
  test('is there for those whose role has a right to it, and isn’t for anybody else', async () => {
    const listed = async (call: Call) =>
      (await call('GET', '/api/registers')).body.map((one: { workflow: string }) => one.workflow);
    expect(await listed(registrar)).toContain('listed');
    expect(await listed(conservator)).not.toContain('listed');
    for (const path of ['', '/records', '/totals', '/export', '/views', '/watching'])
      expect((await conservator('GET', `/api/registers/listed${path}`)).status).toBe(404);
    expect((await server.anybody('GET', '/api/registers/listed')).status).toBe(401);
  });

  test('has the fields that its reader can be shown', async () => {
    const columns = async (call: Call) => {
      const { body } = await call('GET', '/api/registers/listed');
      return { fields: body.definition.fields.map(({ key }: { key: string }) => key), searchable: body.searchable };
    };
    expect(await columns(registrar)).toEqual({
      fields: ['name', 'worth', 'kind', 'back', 'now', 'rows'],
      searchable: ['name', 'worth', 'kind', 'back', 'now', 'rows'],
    });
    expect((await columns(director)).fields).toEqual(DESIGN.fields.map(({ key }) => key));
  });

  test('a value that one may read is found, and nowhere there is any of it for who may not', async () => {
    expect(await namesFor(director, filter('secret = "sesame"'))).toEqual(['Äpfel']);
    expect(await namesFor(director, 'find=sesame')).toEqual(['Äpfel']);
    expect(await namesFor(director, filter('aside = "far"'))).toEqual(['Äpfel']);
    expect(await namesFor(registrar, 'find=sesame')).toEqual([]);
    for (const query of [filter('secret = "sesame"'), filter('aside = "far"'), 'sort=secret', 'sort=aside']) {
      const answer = await records(registrar, query);
      expect([answer.status, problemOf(answer).code]).toEqual([422, 'register/filter']);
    }
    const all = [
      await records(registrar),
      await registrar('GET', '/api/registers/listed/export?format=json'),
      await registrar('GET', '/api/registers/listed/totals'),
    ];
    expect(JSON.stringify(all.map(({ body }) => body))).not.toMatch(/sesame|far"/);
    expect(JSON.stringify((await records(director)).body)).toContain('sesame');
  });

  test('lists the newest first, or in another order; what has nothing there comes last, either way', async () => {
    expect(await namesFor(registrar)).toEqual([null, 'Zebra', '=SUM(A1)', 'birne', 'Äpfel']);
    expect(await namesFor(registrar, 'sort=name&direction=up')).toEqual(['=SUM(A1)', 'Äpfel', 'birne', 'Zebra', null]);
    expect(await namesFor(registrar, 'sort=worth&direction=down')).toEqual(['birne', 'Zebra', 'Äpfel', '=SUM(A1)', null]);
    // An option's place among the options counts.
    const kinds = (await records(registrar, 'sort=kind&direction=up')).entries.map(({ values }) => values.kind ?? null);
    expect(kinds).toEqual(['lend', 'lend', 'ask', null, null]);
    expect(await namesFor(registrar, 'sort=record.createdAt&direction=up')).toEqual([
      'Äpfel',
      'birne',
      '=SUM(A1)',
      'Zebra',
      null,
    ]);
  });

  test.each(['record.createdAt', 'record.number', 'record.due', 'name', 'worth', 'kind', 'back'])(
    'page by page by %s each record comes once',
    async (sort) => {
      for (const direction of ['up', 'down']) {
        const whole = (await records(registrar, `sort=${sort}&direction=${direction}`)).entries.map(({ record }) => record.id);
        const seen: string[] = [];
        let after: string | null = null;
        do {
          const at: string = after === null ? '' : `&after=${encodeURIComponent(after)}`;
          const { body, entries } = await records(registrar, `sort=${sort}&direction=${direction}&limit=2${at}`);
          seen.push(...entries.map(({ record }) => record.id));
          after = body.next;
        } while (after !== null);
        expect(seen).toEqual(whole);
      }
    },
  );

  test('is filtered by any condition over what it shows on each record, and over the record', async () => {
    expect(await namesFor(registrar, filter('worth >= 100'))).toEqual(['Zebra', 'birne', 'Äpfel']);
    expect(await namesFor(registrar, filter('now = "much"'))).toEqual(['birne']);
    expect(await namesFor(registrar, filter('some r in rows satisfies r.title = "Lamp"'))).toEqual(['birne']);
    expect(await namesFor(registrar, filter('record.stage = "done" or back between today() and today() + @"P7D"'))).toEqual([
      'Zebra',
      'Äpfel',
    ]);
    expect(await namesFor(registrar, filter('record.createdAt < @"2026-11-27T09:02:30Z"'))).toEqual(['birne', 'Äpfel']);
    expect(await namesFor(registrar, `stage=done&${filter('not(worth > 200)')}`)).toEqual(['Zebra']);
    expect(await namesFor(registrar, 'find=BIRN')).toEqual(['birne']);
  });

  test.each([
    ['a field that is gone', 'gone = 1', 'expression/unknown-name'],
    ['no condition', 'worth', 'expression/wrong-result'],
    ['half a condition', 'worth >', 'expression/ends-early'],
    ['an option that isn’t there', 'kind = "sell"', 'expression/unknown-option'],
    ['a pattern', 'matches(name, "(a+)+$")', 'expression/not-searchable'],
    ['somebody who looks', 'actor.name = "x"', 'expression/unknown-name'],
    ['SQL', `name = "x') or 1=1 --" or`, 'expression/ends-early'],
  ])('%s is refused, and says where', async (_, text, code) => {
    const answer = await records(registrar, filter(text));
    const problem = problemOf(answer);
    expect([answer.status, problem.code, problem.details[0]?.replace(/^.*: |-near$/g, '')]).toEqual([
      422,
      'register/filter',
      code,
    ]);
  });

  test('quotes, percent signs and backslashes are just characters', async () => {
    for (const text of [`'; drop table records; --`, '%', '_', '\\', '$1'])
      expect(await namesFor(registrar, `find=${encodeURIComponent(text)}`)).toEqual([]);
    expect(await namesFor(registrar, filter(`name = "'; drop table records; --"`))).toEqual([]);
  });

  test('characters and days that no database can hold are refused, not faults', async () => {
    const place = (value: string): string =>
      Buffer.from(JSON.stringify([value, '7f8c2f0e-4a0b-4a55-9f1e-0c2f6f1d2a11'])).toString('base64url');
    for (const query of [
      'find=a%00b',
      filter('name = "a\\u0000b"'),
      `sort=name&after=${place('a\u0000b')}`,
      `after=${place('2026-02-30T00:00:00Z')}`,
      `after=${place('2026-01-01T25:00:00Z')}`,
    ]) {
      const { status } = await records(registrar, query);
      expect([query, status < 500]).toEqual([query, true]);
    }
  });

  test('what isn’t a place in the list is refused', async () => {
    for (const after of ['x', Buffer.from('["1","no"]').toString('base64url'), Buffer.from('[1]').toString('base64url')])
      expect((await records(registrar, `sort=worth&after=${after}`)).status).toBe(400);
  });

  test('has the values of the fields that are asked for, and of no others', async () => {
    const keysOf = async (query: string) =>
      new Set((await records(registrar, query)).entries.flatMap((entry: { values: object }) => Object.keys(entry.values)));
    expect(await keysOf('fields=worth')).toEqual(new Set(['worth']));
    expect((await keysOf('')).size).toBeGreaterThan(2);
    expect(await records(registrar, 'fields=worth,nothing')).toMatchObject({ status: 422, body: { path: 'query.fields' } });
  });

  test('is counted and summed up as filtered', async () => {
    const totals = async (query: string) => (await registrar('GET', `/api/registers/listed/totals?${query}`)).body;
    expect(await totals('sums=worth')).toEqual({
      count: 5,
      stages: [
        { stage: 'work', name: 'Work', count: 4 },
        { stage: 'done', name: 'Done', count: 1 },
      ],
      sums: [{ field: 'worth', sum: '1198.50' }],
    });
    expect(await totals('')).toMatchObject({ count: 5, sums: [] });
    expect(await totals(`sums=worth,worth&${filter('worth > 1000000')}`)).toEqual({ count: 0, stages: [], sums: [] });
    // Only numbers that one may search by are added up.
    for (const sum of ['name', 'nothing', '"', 'record.number', 'worth,'])
      expect(await totals(`sums=${encodeURIComponent(sum)}`)).toMatchObject({
        status: 422,
        code: 'register/filter',
        path: 'query.sums',
      });
  });

  test('a record that one doesn’t act on is opened from it, read-only', async () => {
    const [entry] = (await records(director, filter('name = "birne"'))).entries;
    const { status, body } = await director('GET', `/api/records/${entry?.record.id}`);
    expect([status, body.mayAct]).toEqual([200, false]);
    expect(body.form.values.worth).toBe('1000.50');
  });
});

describe('an export', () => {
  const get = async (call: Call, query: string) => {
    const response = await call('GET', `/api/registers/listed/export?${query}`);
    return response;
  };

  test('as CSV is read back by another library: labels, quoted formulas, the order and filter of the list', async () => {
    const { status, headers, body } = await get(registrar, `format=csv&sort=name&direction=up&${filter('worth != null')}`);
    expect([status, headers['content-disposition']]).toEqual([200, 'attachment; filename="listed.csv"']);
    const rows = parse(String(body), { columns: true, bom: true }) as readonly Record<string, string>[];
    expect(rows.map(({ Name }) => Name)).toEqual(["'=SUM(A1)", 'Äpfel', 'birne', 'Zebra']);
    expect(rows[2]).toMatchObject({ Worth: '1000.5', Kind: 'We lend', Stage: 'Work', Rows: 'Lamp' });
    expect(Object.keys(rows[0] ?? {})).not.toContain('Secret');
  });

  const linesOf = async (query: string): Promise<readonly string[]> =>
    String((await get(director, `${filter('name = "birne"')}&${query}`)).body).split('\r\n');

  test.each<[string, string, readonly string[]]>([
    ['by labels, as sheets read it', '', ['\uFEFFNumber,Worth,Kind', '0002,1000.5,We lend']],
    ['by keys, for programs', 'names=keys&mark=no', ['record.number,worth,kind', '0002,1000.5,lend']],
    ['in the workspace’s forms', 'forms=workspace&mark=no', ['Number,Worth,Kind', '0002,"€1,000.50",We lend']],
    ['with currencies', 'currency=yes&mark=no', ['Number,Worth,Worth: currency,Kind', '0002,1000.5,EUR,We lend']],
  ])('as CSV %s', async (_, query, expected) => {
    const lines = await linesOf(`columns=record.number,worth,kind&${query}`);
    expect(lines.slice(0, 2)).toEqual(expected);
  });

  test('of a table alone has a line for each row, with its record’s number, and none for records without rows', async () => {
    const lines = String((await get(director, 'table=rows&mark=no')).body)
      .trim()
      .split('\r\n');
    expect(lines).toEqual(['Number,Rows: Title', '0002,Lamp']);
    const { body } = await get(director, 'table=rows&format=json');
    expect(body).toEqual([{ 'record.number': expect.any(String), 'rows.title': 'Lamp' }]);
    for (const table of ['secret', 'name', 'nowhere']) expect((await get(director, `table=${table}`)).status).toBe(422);
  });

  test('as JSON has the columns asked for, numbers as numbers', async () => {
    const { body } = await get(registrar, `format=json&columns=record.number,name,worth&${filter('name = "birne"')}`);
    expect(body).toEqual([{ 'record.number': expect.any(String), name: 'birne', worth: 1000.5 }]);
    expect((await get(registrar, `format=json&${filter('name = "none"')}`)).body).toEqual([]);
  });

  test('as a workbook is read back by another library', async () => {
    const { rawPayload, statusCode } = await server.server.app.inject({
      method: 'GET',
      url: `/api/registers/listed/export?format=xlsx&columns=name,worth,back&sort=name&direction=up`,
      headers: { cookie: await server.cookieOf('registrar') },
    });
    expect(statusCode).toBe(200);
    const [{ data }] = (await readSheet(rawPayload)) as never as [{ data: readonly unknown[][] }];
    expect(data.slice(0, 3)).toEqual([
      ['Name', 'Worth', 'Back'],
      ['=SUM(A1)', -3, null],
      ['Äpfel', 100, new Date('2026-12-01')],
    ]);
  });

  describe('with days, moments and rows', () => {
    const MOMENTS = {
      ...DESIGN,
      key: 'kept',
      name: 'Kept',
      plan: {},
      fields: [
        { key: 'day', name: 'Day', type: 'date' },
        { key: 'at', name: 'At', type: 'date-time' },
        { key: 'size', name: 'Size', type: 'number', scale: 10 },
        {
          key: 'rows',
          name: 'Rows',
          type: 'table',
          fields: [
            { key: 'title', name: 'Title', type: 'text' },
            { key: 'seen', name: 'Seen', type: 'date' },
          ],
        },
      ].map((field) => ({ section: 'all', treatment: 'optional', ...field })),
    };
    const keep = (values: object) => director('POST', '/api/intakes/kept/records', { stage: 'ask', handOff: 'send', values });
    beforeAll(async () => {
      await publishDefinition(analyst, MOMENTS);
      const rows = [
        { id: 'a', values: { title: 'Lamp', seen: '2026-12-01' } },
        { id: 'b', values: { title: '=Clock;1', seen: null } },
      ];
      expect((await keep({ day: '0001-01-01', at: '2026-10-25T00:30:00Z', rows })).status).toBe(201);
      expect((await keep({ day: '2026-12-01', at: '2026-12-01T08:30:15Z', size: '1.0000000001' })).status).toBe(201);
      expect((await keep({ at: '2026-12-01T08:30:15.125Z', size: '1000000000000.0000000001' })).status).toBe(201);
    });

    test('as a workbook: what a sheet can hold is a day, a moment of the clock or a number, all else is written in full', async () => {
      const { rawPayload } = await server.server.app.inject({
        method: 'GET',
        url: '/api/registers/kept/export?format=xlsx&columns=day,at,size,record.createdAt&sort=record.number&direction=up',
        headers: { cookie: await server.cookieOf('registrar') },
      });
      const [{ data }] = (await readSheet(rawPayload)) as never as [{ data: readonly unknown[][] }];
      const rows = data.slice(1).map(([day, at, size]) => [day, at, size]);
      expect(rows).toEqual([
        // The clock shows 02:30 twice in that night, so that it wouldn't say which.
        ['0001-01-01', '2026-10-25T00:30:00Z', null],
        [new Date('2026-12-01'), new Date('2026-12-01T09:30:15Z'), 1.0000000001],
        [null, '2026-12-01T08:30:15.125Z', '1000000000000.0000000001'],
      ]);
      expect(data[1]?.[3]).toBeInstanceOf(Date);
    });

    test('as CSV with a line for each row of a table, with the record’s number on its first', async () => {
      const query = 'format=csv&tables=lines&columns=record.number,day,rows&sort=record.number&direction=up';
      const { body } = await registrar('GET', `/api/registers/kept/export?${query}`);
      // A text with the mark by which sheets of other locales part cells stays one cell.
      expect(String(body)).toContain(`"'=Clock;1"`);
      const [head, ...lines] = parse(String(body), { bom: true }) as readonly (readonly string[])[];
      expect(head).toEqual(['Number', 'Day', 'Rows: Title', 'Rows: Seen']);
      expect(lines.map(([number, ...cells]) => [number !== '', ...cells])).toEqual([
        [true, '0001-01-01', 'Lamp', '2026-12-01'],
        [false, '', "'=Clock;1", ''],
        [true, '2026-12-01', '', ''],
        [true, '', '', ''],
      ]);
    });
  });

  test('of a column that isn’t shown is refused', async () => {
    expect(problemOf(await get(registrar, 'columns=name,secret')).code).toBe('register/filter');
  });

  test('as it can’t be filtered is refused before anything is sent', async () => {
    for (const format of ['csv', 'json', 'xlsx']) {
      const answer = await get(registrar, `format=${format}&${filter('gone = 1')}`);
      expect([answer.status, problemOf(answer).code]).toEqual([422, 'register/filter']);
    }
  });

  test('of more records than one page holds has each of them once', async () => {
    const { pool } = server.server.context.database;
    await pool.query(
      `insert into records (id, workflow, version, number, stage, stage_kind, intake, values, created_at, arrived_at)
       select gen_random_uuid(), 'listed', 1, 'P-' || n, 'done', 'end', 'ask', '{}', now(), now() from generate_series(1, 1203) n`,
    );
    const { body } = await get(registrar, 'format=csv&columns=record.number&find=P-');
    const numbers = (parse(String(body), { columns: true, bom: true }) as readonly { Number: string }[]).map((row) => row.Number);
    expect([numbers.length, new Set(numbers).size]).toEqual([1203, 1203]);
    await pool.query(`delete from records where number like 'P-%'`);
  });
});

describe('views', () => {
  const settings = { columns: ['name'], sort: 'name', direction: 'up', filter: 'worth > 1', find: '', layout: 'list' };
  const keep = (call: Call, more: object) =>
    call('POST', '/api/registers/listed/views', { name: 'Dear', isShared: false, settings, ...more });
  const names = async (call: Call) =>
    (await call('GET', '/api/registers/listed/views')).body.map((one: { name: string; isOwn: boolean }) => [one.name, one.isOwn]);

  test('are one’s own, or shared; changed and deleted by whoever keeps them', async () => {
    const own = await keep(registrar, {});
    expect(own.status).toBe(201);
    await keep(director, { name: 'For all', isShared: true });
    expect(await names(registrar)).toEqual([
      ['Dear', true],
      ['For all', false],
    ]);
    expect(await names(director)).toEqual([['For all', true]]);
    const address = `/api/registers/listed/views/${own.body.id}`;
    expect((await director('PUT', address, { name: 'Mine', isShared: true, settings })).status).toBe(404);
    expect((await director('DELETE', address)).status).toBe(404);
    expect((await registrar('PUT', address, { name: 'Dearest', isShared: false, settings })).body.name).toBe('Dearest');
    expect((await registrar('DELETE', address)).status).toBe(204);
    expect(await names(registrar)).toEqual([['For all', false]]);
  });

  test('that can’t be applied aren’t kept', async () => {
    for (const wrong of [{ filter: 'gone = 1' }, { sort: 'rows' }, { columns: ['secret'] }])
      expect((await keep(registrar, { settings: { ...settings, ...wrong } })).status).toBe(422);
    expect((await keep(registrar, { name: ' ' })).status).toBe(400);
  });
});

describe('watching', () => {
  test('tells where records wait, with whom and how long, what began and ended, and which ways were taken', async () => {
    now = Date.parse('2026-12-01T09:00:00Z');
    const { body } = await registrar('GET', '/api/registers/listed/watching?weeks=4');
    expect(body.stages).toEqual([
      { stage: 'ask', name: 'Ask', waiting: 0, overdue: 0, medianDays: null, longestDays: null },
      { stage: 'work', name: 'Work', waiting: 4, overdue: 0, medianDays: 4, longestDays: 4 },
    ]);
    expect(body.holders).toEqual([{ name: 'Registrar', isRole: true, waiting: 4, overdue: 0 }]);
    expect(body.weeks).toEqual([
      { from: '2026-11-09', begun: 0, ended: 0 },
      { from: '2026-11-16', begun: 0, ended: 0 },
      { from: '2026-11-23', begun: 5, ended: 1 },
      { from: '2026-11-30', begun: 0, ended: 0 },
    ]);
    expect(body.ways).toEqual([
      { from: 'ask', to: 'work', times: 4, isDesigned: true },
      { from: 'ask', to: 'done', times: 1, isDesigned: true },
      { from: 'work', to: 'done', times: 0, isDesigned: true },
    ]);
    expect(body.since).toBe('2026-11-08T23:00:00Z');
  });

  test('leaves out events of which it isn’t known between which stages they were', async () => {
    const { pool } = server.server.context.database;
    const before = (await registrar('GET', '/api/registers/listed/watching?weeks=4')).body.ways;
    await pool.query(
      `insert into record_events (record, revision, at, by, event)
       select id, 9, now(), submitted_by, '{"type":"handed-on"}' from records where workflow = 'listed' limit 1`,
    );
    const { status, body } = await registrar('GET', '/api/registers/listed/watching?weeks=4');
    expect([status, body.ways]).toEqual([200, before]);
    await pool.query('delete from record_events where revision = 9');
  });
});

describe('texts of a register', () => {
  beforeAll(async () => {
    for (const name of ['item 10', 'item 2', 'Item 3', 'ISSUE 1', 'İstanbul item']) await begin('close', { name });
  });

  test('are ordered by the numbers in them, not digit by digit', async () => {
    const names = await namesFor(director, `sort=name&direction=up&${filter('contains(name, "tem ")')}`);
    expect(names).toEqual(['item 2', 'Item 3', 'item 10']);
    const first = (await records(director, `sort=name&direction=up&limit=1&${filter('contains(name, "tem ")')}`)).body.next;
    const rest = await namesFor(director, `sort=name&direction=up&after=${first}&${filter('contains(name, "tem ")')}`);
    expect(rest).toEqual(['Item 3', 'item 10']);
  });

  test('a search for the Turkish İ finds texts with İ, and not every text with an i', async () => {
    expect(await namesFor(director, `find=${encodeURIComponent('İ')}`)).toEqual(['İstanbul item']);
    expect(await namesFor(director, 'find=issue')).toEqual(['ISSUE 1']);
    expect(await namesFor(director, 'find=istanbul')).toEqual(['İstanbul item']);
  });
});

describe('a filter that is too much work', () => {
  const dear = ['a', 'b', 'c', 'd'].reduceRight(
    (condition, name) => `some ${name} in rows satisfies (${condition})`,
    'a.title != b.title or c.title != d.title',
  );

  beforeAll(async () => {
    const rows = Array.from({ length: 200 }, (_, index) => ({ id: `r${index}`, values: { title: 'x' } }));
    await begin('close', { name: 'Long', rows });
  });

  test('by its constants is refused before it is worked out', async () => {
    const answer = await records(registrar, filter('count(for i in 1..1400, j in 1..1400 return i * j) = worth'));
    expect([answer.status, problemOf(answer).code]).toEqual([422, 'register/too-much-work']);
    // Constants that are worked out quickly are taken.
    expect((await records(registrar, filter('worth = sum(for i in 1..20 return i * 5)'))).status).toBe(200);
  });

  test('over rows within rows is stopped after a while; others, and other pages, don’t wait for it', async () => {
    const first = records(registrar, filter(dear));
    expect((await records(director, filter('worth = 101'))).status).toBe(200);
    expect((await registrar('GET', '/api/desk')).status).toBe(200);
    expect((await records(registrar)).status).toBe(200);
    expect((await server.anybody('GET', '/api/health')).status).toBe(200);
    const { status, body } = await first;
    expect([status, body.code]).toEqual([422, 'register/too-much-work']);
    // 200 rows within themselves four times, beside records without rows: a hopeless number, which is told before it is tried.
    expect(body.detail).toMatch(/about 1,\d00,000,000 rows of tables/);
  }, 60_000);
});

describe('a large register', () => {
  const names = async (): Promise<readonly string[]> => {
    const { rows } = await server.server.context.database.pool.query(
      `select indexdef from pg_indexes where tablename = 'records' and indexname like 'register\\_%'`,
    );
    return rows.map(({ indexdef }) => indexdef);
  };

  test('is indexed by what it is ordered and filtered by, once, and a small one isn’t', async () => {
    const { registerIndexes, database } = server.server.context;
    await records(registrar, 'sort=worth');
    await registerIndexes.idle();
    expect(await names()).toEqual([]);
    await database.pool.query(
      `insert into records (id, workflow, version, number, stage, stage_kind, intake, values, created_at, arrived_at)
       select gen_random_uuid(), 'listed', 1, 'X-' || n, 'done', 'end', 'ask', jsonb_build_object('worth', n::text, 'name', 'N' || n), now(), now()
       from generate_series(1, 5001) n`,
    );
    for (let time = 0; time < 2; time++) {
      await records(registrar, `sort=worth&${filter('name = "N17"')}`);
      await records(registrar, filter('some r in rows satisfies r.title = "x"'));
      await records(registrar, 'find=N17');
      await registerIndexes.idle();
      const made = await names();
      expect(made).toHaveLength(3);
      expect(made.filter((index) => /USING gin [\s\S]* gin_trgm_ops/.test(index))).toHaveLength(1);
      expect(made.join()).toMatch(/ypomet_number/);
      expect(made.join()).toContain("WHERE (workflow = 'listed'::text)");
    }
    expect(await namesFor(registrar, filter('name = "N17"'))).toEqual(['N17']);
    expect((await records(registrar, 'sort=worth&direction=down&limit=2')).entries.map(({ values }) => values.worth)).toEqual([
      '5001.00',
      '5000.00',
    ]);
  });
});

test('how often: searches are counted for each member', async () => {
  const statuses = new Map<number, number>();
  for (let index = 0; index < RATES.searches + 3; index++) {
    const { status } = await conservator('GET', '/api/registers/listed/totals');
    statuses.set(status, (statuses.get(status) ?? 0) + 1);
  }
  expect(statuses.get(429)).toBeGreaterThanOrEqual(3);
  expect((await registrar('GET', '/api/registers/listed/totals')).status).toBe(200);
});
