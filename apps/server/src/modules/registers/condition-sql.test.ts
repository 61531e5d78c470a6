import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import {
  type CheckedExpression,
  checkExpression,
  compileCondition,
  type Field,
  type Json,
  makeFrame,
  type Node,
  ORDINARY_CALENDAR,
  parseExpression,
  parseWorkflow,
  readFieldValue,
  registerScope,
  runProgram,
  specialiseExpression,
  TYPES,
  type Value,
  writeFieldValue,
} from '@ypomet/core';
import { COLOURS, makeGenerators } from '@ypomet/testkit/generators';
import fc from 'fast-check';
import { TestServer } from '../../testing/test-server.ts';
import { conditionSql, Parameters } from './condition-sql.ts';

// A condition finds the same records in PostgreSQL as the core does, unknown ones among them (semantics 2; architecture 4).
const options = COLOURS.map((code) => ({ code, label: code }));
const read = parseWorkflow({
  format: 'ypomet.workflow/1',
  key: 'found',
  name: 'Found',
  sections: [{ key: 'all', name: 'All' }],
  fields: [
    { key: 'amount', type: 'number', scale: 15 },
    { key: 'count1', type: 'number' },
    { key: 'flag', type: 'yes-no' },
    { key: 'shade', type: 'choice', options },
    { key: 'shades', type: 'multi-choice', options },
    { key: 'label', type: 'text' },
    { key: 'day', type: 'date' },
    { key: 'at', type: 'date-time' },
    { key: 'clock', type: 'time' },
    { key: 'papers', type: 'file' },
    {
      key: 'rows',
      type: 'table',
      fields: [
        { key: 'size', name: 'Size', type: 'number' },
        { key: 'colour', name: 'Colour', type: 'choice', options },
        { key: 'good', name: 'Good', type: 'yes-no' },
        { key: 'cost', name: 'Cost', type: 'money', currency: 'EUR' },
        { key: 'name', name: 'Name', type: 'text' },
        { key: 'marks', name: 'Marks', type: 'multi-choice', options },
        { key: 'made', name: 'Made', type: 'date' },
        { key: 'seen', name: 'Seen', type: 'date-time' },
        { key: 'hour', name: 'Hour', type: 'time' },
      ],
    },
  ].map((field) => ({ name: field.key, section: 'all', ...field })),
  tracks: [{ key: 'main', name: 'Main' }],
  stages: [{ key: 'ask', name: 'Ask', kind: 'intake', tracks: ['main'] }],
});
if (!read.ok) throw new Error('the definition has faults');
const definition = read.value;
const scope = registerScope({ definition, searchable: definition.fields.map(({ key }) => key) });
const environment = { now: Date.parse('2026-11-25T12:00:00Z'), zone: 'Europe/Vienna', calendar: ORDINARY_CALENDAR };
const context = { zone: environment.zone, findRecord: () => null };
const fieldOf = (key: string): Field => definition.fields.find((field) => field.key === key) as Field;

type Stored = Readonly<Record<string, Json>>;
/** A record's values by slot, as the core reads them from what is stored. */
function slotsOf(stored: Stored): Value[] {
  const slots: Value[] = new Array(scope.entries.size + 8).fill(null);
  for (const field of definition.fields) {
    const found = readFieldValue(field, stored[field.key], context);
    slots[scope.entries.get(field.key)?.slot ?? 0] = found.ok ? found.value : null;
  }
  return slots;
}

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.make({ isDemo: false });
});
afterAll(() => server.close());

/** Which of some records the database finds; null where it can't be asked. */
async function foundInSql(checked: CheckedExpression, records: readonly Stored[]): Promise<readonly boolean[] | null> {
  const parameters = new Parameters();
  const list = parameters.add(JSON.stringify(records), 'jsonb');
  const written = conditionSql(checked, definition.fields, parameters);
  if (!written.ok) return null;
  const { rows } = await server.server.context.database.pool.query<{ found: boolean | null }>(
    `select (${written.value}) as found from jsonb_array_elements(${list}) with ordinality as r(values, place) order by place`,
    parameters.values,
  );
  return rows.map(({ found }) => found === true);
}

function check(node: Node): CheckedExpression {
  const typed = checkExpression(node, scope, TYPES.boolean);
  expect(typed.diagnostics).toEqual([]);
  const { node: folded } = specialiseExpression(typed, () => false, makeFrame([], environment), 'known');
  return checkExpression(folded, scope, TYPES.boolean);
}

const foundInCore = (checked: CheckedExpression, records: readonly Stored[]): readonly boolean[] => {
  const program = compileCondition(checked);
  return records.map((stored) => runProgram(program, makeFrame(slotsOf(stored), environment)));
};

const { namedValues, conditionNode } = makeGenerators(
  fc.constantFrom('-2.5', '0', '0.1', '0.30', '7.000000000000001', '1000').map((text) => {
    const found = readFieldValue(fieldOf('amount'), text, context);
    if (!found.ok) throw new Error(text);
    return found.value;
  }),
);
const storedRecord = namedValues.map((values): Stored => {
  const rows = (values.rows?.value ?? []) as readonly { readonly entries: Readonly<Record<string, Value>> }[];
  const named = rows.map((row, index) => ({ ...row, kind: 'context' as const, id: `r${index}` }));
  return Object.fromEntries(
    Object.entries(values).map(([key, { value }]) => [
      key,
      // An empty text is stored as no text.
      writeFieldValue(fieldOf(key), key === 'rows' ? named : value === '' ? null : value),
    ]),
  );
});

describe('conditions as SQL', () => {
  test('generated ones find the same records', async () => {
    let asked = 0;
    const property = fc.asyncProperty(
      conditionNode,
      fc.array(storedRecord, { minLength: 5, maxLength: 12 }),
      async (node, records) => {
        const checked = check(node);
        const found = await foundInSql(checked, records);
        if (found === null) return;
        asked += 1;
        expect(found).toEqual(foundInCore(checked, records));
      },
    );
    await fc.assert(property, { numRuns: 400 });
    // Arithmetic on fields is what isn't searched by.
    expect(asked).toBeGreaterThan(150);
  });

  const RECORDS: readonly Stored[] = [
    {},
    { amount: null, flag: null, label: null, rows: [], papers: [], shades: null },
    { amount: '1000.00', flag: true, label: 'Ab', shade: 'red', shades: ['red', 'blue'], day: '2026-11-25' },
    { amount: '999.999', flag: false, label: 'ab', shade: 'blue', shades: [], day: '2026-10-26', clock: '09:30:00' },
    { amount: '-0.5', label: 'ｚ', day: '2024-02-29', at: '2026-11-25T08:00:00Z', clock: '23:59:59.5' },
    { label: '\u{1f600}', at: '2026-11-25T08:00:00.250Z', clock: '10:30:00+01:00', day: '2027-01-01' },
    { papers: [{ name: 'a', mediaType: 'b/c', bytes: 1, sha256: 'd' }], label: '100% _a\\', amount: '7' },
    {
      rows: [
        { id: 'a', values: { size: '3', colour: 'red', good: true } },
        { id: 'b', values: { size: null, good: null } },
      ],
    },
    { rows: [{ id: 'a', values: { size: '-1', colour: 'blue', good: false } }], day: '2025-02-28' },
    {
      rows: [
        { id: 'a', values: { seen: '2026-12-01T08:00:00Z', made: '2026-11-25', hour: '09:00:00', cost: '999.00', name: 'Lamp' } },
        { id: 'b', values: { seen: '2026-12-01T09:00:00Z', marks: ['red', 'blue'] } },
      ],
    },
    { rows: [{ id: 'a', values: { seen: '2026-12-01T09:00:00Z', made: '2026-11-26', cost: '1000.00', name: 'lamp' } }] },
    // What a record can hold that its field can't: it reads as empty.
    { amount: 'many', day: '2026-02-31', clock: '25:00:00', at: '2026-13-01T00:00:00Z' },
  ];

  test.each([
    'amount >= 1000',
    'amount < 1000',
    'not(amount > 0)',
    'amount = null',
    'amount != null and amount != 7',
    'not(amount between 0 and 1000)',
    'amount in [1..1000)',
    'amount in (> 999, 7)',
    'not(amount in (> 999, null))',
    'amount > count1',
    'amount = count1',
    'flag',
    'not(flag)',
    'flag = false',
    'flag != true',
    'shade = "red"',
    'shade != "red"',
    'not(shade in ("red", "green"))',
    'shade in ["red", "blue"]',
    'list contains(shades, "blue")',
    'not(list contains(shades, "blue"))',
    'shades = null',
    'papers != null',
    'label = "ab"',
    'label < "b"',
    'label > "ｚ"',
    'contains(label, "b")',
    'not(contains(label, "b"))',
    'contains(label, "% _")',
    'starts with(label, "A")',
    'ends with(label, "")',
    'not(ends with(label, "longer than any"))',
    'day = today()',
    'day > date("2026-02-28")',
    'amount >= 10 * 100 - 1',
    'label = upper case("ab")',
    'day between today() - @"P30D" and today()',
    'day > @"2026-02-28"',
    'not(day < @"2026-02-28")',
    'at = @"2026-11-25T09:00:00@Europe/Vienna"',
    'at > @"2026-11-25T08:00:00Z"',
    'at <= now()',
    'clock > @"09:30:00"',
    'clock = @"09:30:00"',
    'count(rows) > 0',
    'count(rows) = 0',
    'count(rows[size > 0]) = 1',
    'count(rows[good]) = 0',
    'sum(concatenate([0], rows.size[item != null])) >= 0',
    'some r in rows satisfies r.size > 0',
    'every r in rows satisfies r.good',
    'not(every r in rows satisfies r.good)',
    'not(some r in rows satisfies r.colour = "red" and amount = null)',
    'if flag then amount > 0 else label = "ab"',
    // Times without an offset are those of the workspace's zone, also within rows.
    'some r in rows satisfies r.seen = @"2026-12-01T09:00:00"',
    'every r in rows satisfies r.seen >= @"2026-12-01T10:00:00"',
    'not(some r in rows satisfies r.seen in [@"2026-12-01T09:00:00"..@"2026-12-01T09:30:00"])',
    'some r in rows satisfies r.seen between @"2026-12-01T09:00:00" and @"2026-12-01T09:30:00"',
    'count(rows[seen = @"2026-12-01T09:00:00"]) = 1',
    'some r in rows satisfies r.made = today()',
    'some r in rows satisfies r.made > date("2026-11-25")',
    'count(rows[cost > 10 * 100 - 1]) > 0',
    'some r in rows satisfies r.hour < @"09:30:00"',
    'some r in rows satisfies starts with(r.name, upper case("l"))',
    'some r in rows satisfies list contains(r.marks, "blue")',
    'shades = ["red", "blue"]',
    'shades = ["blue", "red"]',
    'shades != ["red", "blue"]',
    'shades = []',
    'some r in rows satisfies r.marks = ["red", "blue"]',
    'count(shades) = 2',
    'count(shades) = 0',
    'not(count(shades) > 1)',
    'count(shades) = null',
    'amount > number("many")',
    'not(amount > number("many"))',
    'amount in [number("many")..5]',
    'null',
    'true',
  ])('%s', async (text) => {
    const parsed = parseExpression(text);
    if (!parsed.ok) throw new Error(text);
    const checked = check(parsed.value);
    expect(await foundInSql(checked, RECORDS)).toEqual(foundInCore(checked, RECORDS));
  });

  test.each(['amount + 1 > 3', 'matches(label, "a.c")', 'day + @"P1D" > today()', 'upper case(label) = "AB"', 'rows.size = [1]'])(
    '%s isn’t searched by',
    async (text) => {
      const parsed = parseExpression(text);
      expect(await foundInSql(check((parsed as { value: Node }).value), RECORDS)).toBeNull();
    },
  );
});
