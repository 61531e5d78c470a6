import { describe, expect, test } from '@jest/globals';
import { ENVIRONMENT, show } from '@ypomet/testkit/evaluate';
import { PLAIN_TYPINGS } from '@ypomet/testkit/plain-conditions';
import { OUTSIDE } from '@ypomet/testkit/sample-workflow';
import { CLERK, recordOf, smallCompiled } from '@ypomet/testkit/small-workflow';
import fc from 'fast-check';
import { readOutlineGroup } from '../expressions/outline/read.ts';
import { parseExpression } from '../expressions/parse.ts';
import { makeScope } from '../expressions/scope.ts';
import { listOf, TYPES, typing } from '../expressions/types.ts';
import { enterInput } from '../flow/enter-input.ts';
import { Field } from '../model/field.ts';
import { exactInteger, readExact } from '../values/exact.ts';
import { readDate, readTime } from '../values/temporal.ts';
import type { Value } from '../values/value.ts';
import { type Atom, atomsOf, type Extent } from './atoms.ts';
import { constantIn, constantsBeside } from './constants.ts';
import { reachOf } from './reach.ts';
import { remarksOn } from './remarks.ts';
import { axisOf, type Basis, fieldsRead, type Way, whichWay } from './which-way.ts';

const node = (text: string) => {
  const parsed = parseExpression(text);
  if (!parsed.ok) throw new Error(text);
  return parsed.value;
};
const exact = (text: string): Value => readExact(text) as Value;
const told = (extent: Extent): string => {
  if (extent.kind === 'value') return show(extent.value);
  if (extent.kind !== 'range') return extent.kind;
  const { low, high, includesLow, includesHigh } = extent;
  return `${includesLow ? '[' : '('}${show(low)}..${show(high)}${includesHigh ? ']' : ')'}`;
};
const cuts = (atoms: readonly Atom[] | null): readonly string[] | undefined =>
  atoms?.map(({ extent, value }) => `${told(extent)}: ${show(value)}`);
const field = (own: object): Field => Field.parse({ key: 'f', name: 'F', section: 's', ...own });

describe('values are cut at the constants they are compared with', () => {
  test('constants are found where they stand, the clock’s too', () => {
    const found = (text: string) => constantsBeside(node(text), 'a', ENVIRONMENT).map(show);
    expect(found('a > 1 and (2 < a or b > 3) and a in (4, [5..6], > 7)')).toEqual(['1', '2', '4', '5', '6', '7']);
    expect(found('a between today() - @"P1D" and today()')).toEqual(['2026-11-24', '2026-11-25']);
    expect(found('a > b or a.c = 1 or starts with(a, "x")')).toEqual(['"x"']);
    expect(constantIn(node('a'), ENVIRONMENT)).toBeUndefined();
  });

  test('numbers, by the places and limits of what is entered', () => {
    const constants = [exact('5'), exact('1'), exact('5.0'), exact('6')];
    const entered = field({ type: 'number', min: '1', max: '9' });
    expect(cuts(atomsOf(TYPES.number, constants, entered))).toEqual([
      'empty: null',
      '1: 1',
      '(1..5): 2',
      '5: 5',
      '6: 6',
      '(6..null): 7',
    ]);
    expect(cuts(atomsOf(TYPES.number, constants))).toContain('(5..6): 5.5');
    expect(cuts(atomsOf(TYPES.number, [exact('0.1')], field({ type: 'money', currency: 'EUR' })))).toEqual([
      'empty: null',
      '(null..0.1): 0.09',
      '0.1: 0.1',
      '(0.1..null): 0.11',
    ]);
    expect(cuts(atomsOf(TYPES.number, []))).toEqual(['empty: null', '(null..null): 0']);
  });

  test('days, times, yes and no, choices, texts; not lists', () => {
    const days = ['2027-03-01', '2027-03-02', '2027-03-09'].map((text) => readDate(text));
    expect(cuts(atomsOf(TYPES.date, days))).toEqual([
      'empty: null',
      '(null..2027-03-01): 2027-02-28',
      '2027-03-01: 2027-03-01',
      '2027-03-02: 2027-03-02',
      '(2027-03-02..2027-03-09): 2027-03-03',
      '2027-03-09: 2027-03-09',
      '(2027-03-09..null): 2027-03-10',
    ]);
    expect(cuts(atomsOf(TYPES.time, [readTime('00:00:00')]))?.[1]).toBe('00:00:00: 00:00:00');
    expect(cuts(atomsOf(TYPES.boolean, []))).toEqual(['empty: null', 'true: true', 'false: false']);
    expect(cuts(atomsOf(TYPES.text, ['another']))).toEqual(['empty: null', '"another": "another"', 'other: "another…"']);
    expect(atomsOf(listOf(TYPES.text), [])).toBeNull();
  });
});

describe('what a condition says that may not be meant', () => {
  const scope = makeScope({ ...PLAIN_TYPINGS, day: typing(TYPES.date, true) });
  const context = { scope, fieldAt: () => null, environment: ENVIRONMENT };
  const remarks = (text: string): readonly string[] =>
    remarksOn(readOutlineGroup(node(text)), context).map(
      (one) => `${one.code} ${one.path.join('.')}${one.with ? ` with ${one.with.join('.')}` : ''}`,
    );
  test.each<[string, readonly string[]]>([
    ['amount > 5 and amount > 5', ['twice 1 with 0']],
    ['flag or (amount > 5 and size > 1) or (amount > 5 and size > 1)', ['twice 2 with 1']],
    ['amount > 5 and amount < 3', ['never 1 with 0']],
    ['amount > 5 and amount < 5.01', []],
    ['amount > 5 and size > 2 and amount <= 5', ['never 2 with 0']],
    ['amount >= 5 and amount <= 5', []],
    ['amount > 1 and amount < 5 and amount in (0, 7)', ['never 2']],
    ['amount > 1 and amount < 5 and amount between 4 and 9 and not(amount in (4, 9))', []],
    ['shade = "red" and shade = "blue"', ['never 1 with 0']],
    ['shade = "red" or shade = "blue"', []],
    ['shade != "red" or shade != "blue"', ['always 1 with 0', 'holds-while-empty 0', 'holds-while-empty 1']],
    ['amount > 5 or amount <= 5', []],
    ['amount > 5 or amount <= 5 or amount = null', ['always 2']],
    ['shade = null and shade = "red"', ['never 1 with 0']],
    ['shade != "red"', ['holds-while-empty 0']],
    ['shade != "red" and shade != null', []],
    ['shade != "red" and flag and shade != null', []],
    ['day > today() and day < today() - @"P1D"', ['never 1 with 0']],
    ['day between today() - @"P7D" and today() and day > today()', ['never 1 with 0']],
    ['amount > size and amount < size', []],
    ['count(rows) > 3 and count(rows) < 2', ['never 1 with 0']],
    ['some r in rows satisfies r.amount > 5 and r.amount < 3', []],
    ['flag and flag = false', ['never 1 with 0']],
  ])('%s', (text, expected) => {
    expect(remarks(text)).toEqual(expected);
  });

  test('what is said never to hold, or always, does so for every value: tried out', () => {
    const clause = fc.oneof(
      fc
        .tuple(fc.constantFrom('>', '>=', '<', '<=', '=', '!='), fc.integer({ min: 0, max: 4 }))
        .map(([operator, at]) => `amount ${operator} ${at}`),
      fc.constant('amount = null'),
      fc.constant('amount != null'),
      fc
        .tuple(fc.integer({ min: 0, max: 4 }), fc.integer({ min: 0, max: 4 }))
        .map(([low, high]) => `amount between ${low} and ${high}`),
    );
    const values = [null, ...Array.from({ length: 13 }, (_, index) => exact(String(index / 2 - 1)))];
    fc.assert(
      fc.property(fc.uniqueArray(clause, { minLength: 2, maxLength: 4 }), fc.constantFrom(' and ', ' or '), (clauses, joint) => {
        const text = clauses.join(joint);
        const found = remarksOn(readOutlineGroup(node(text)), context).filter(
          ({ code }) => code === 'never' || code === 'always',
        );
        const truths = values.map((amount) => {
          const compiled = smallCompiled({
            fields: [{ type: 'number', key: 'amount', scale: 1 }],
            checks: [{ key: 'c', name: 'C', condition: text, message: 'm' }],
          });
          const read = enterInput(
            compiled,
            recordOf(compiled, amount === null ? {} : { amount: show(amount) }),
            {},
            CLERK,
            OUTSIDE,
          );
          return read.ok && compiled.forms.checks[0]?.condition.holds(read.value.frame);
        });
        const isSettled = joint === ' and ' ? !truths.includes(true) : !truths.includes(false);
        expect([text, found.length > 0]).toEqual([text, isSettled]);
      }),
      { numRuns: 60 },
    );
  });
});

describe('which branches can be taken', () => {
  const scope = makeScope(PLAIN_TYPINGS);
  const reach = (...texts: readonly string[]): readonly string[] =>
    reachOf(
      texts.map((text) => readOutlineGroup(node(text))),
      { scope, fieldAt: () => null, environment: ENVIRONMENT },
    ).map((one) => (one.kind === 'after' ? `after ${one.after.join()}` : one.kind));
  test.each<[readonly string[], readonly string[]]>([
    [
      ['amount > 5', 'amount > 7'],
      ['reached', 'after 0'],
    ],
    [
      ['amount > 7', 'amount > 5'],
      ['reached', 'reached'],
    ],
    [
      ['amount > 5', 'amount <= 5', 'amount = 3'],
      ['reached', 'reached', 'after 1'],
    ],
    [
      ['amount > 5', 'amount <= 5', 'flag'],
      ['reached', 'reached', 'reached'],
    ],
    [
      ['amount > 5 or amount = null', 'amount <= 5', 'flag'],
      ['reached', 'reached', 'after 0,1'],
    ],
    [
      ['shade = "red" and amount > 1', 'amount > 2 and shade in ("red")'],
      ['reached', 'after 0'],
    ],
    [
      ['shade = "red" and amount > 1', 'amount > 2'],
      ['reached', 'reached'],
    ],
    [['amount > 5 and amount < 3'], ['never']],
    [
      ['true', 'amount > 1'],
      ['reached', 'after 0'],
    ],
    [
      ['amount > size', 'amount > size'],
      ['undecided', 'undecided'],
    ],
    [
      ['count(rows) > 3', 'count(rows) > 4'],
      ['reached', 'after 0'],
    ],
  ])('%j', (texts, expected) => {
    expect(reach(...texts)).toEqual(expected);
  });
});

describe('which values go where', () => {
  const compiled = smallCompiled({
    fields: [
      { type: 'money', key: 'value', currency: 'EUR' },
      {
        type: 'choice',
        key: 'venue',
        options: [
          { code: 'home', label: 'Home' },
          { code: 'away', label: 'Away' },
        ],
      },
      { type: 'yes-no', key: 'fragile', expression: 'value > 100' },
      { type: 'text', key: 'unread' },
    ],
    moreStages: [{ key: 'extra', kind: 'work', roles: ['clerk'] }],
    moreHandOffs: [{ key: 'go', from: 'extra', otherwise: { to: 'done' } }],
    handOffs: {
      finish: {
        otherwise: null,
        branches: [
          { key: 'dear', name: 'Dear', when: 'value > 1000 or venue = "away"', to: 'extra' },
          { key: 'cheap', name: 'Cheap', when: 'value < 1000 and not(fragile)', to: 'done' },
        ],
      },
    },
  });
  const record = recordOf(compiled, {}, 'work');
  const entered = enterInput(compiled, record, {}, CLERK, OUTSIDE);
  if (!entered.ok) throw new Error();
  const basis: Basis = { workflow: compiled, record, given: entered.value.given, actor: CLERK, outside: OUTSIDE };
  const finish = compiled.handOffs.get('finish');
  if (!finish) throw new Error();
  const axis = (key: string) => {
    const found = axisOf(compiled, finish, key, ENVIRONMENT);
    if (!found) throw new Error(key);
    return found;
  };
  const wayIn = (way: Way): string =>
    way.kind === 'branch' ? way.branch : way.kind === 'clash' ? way.branches.join('&') : way.kind;

  test('the fields that the branches read', () => {
    expect(fieldsRead(compiled, finish).map(({ field: own }) => own.key)).toEqual(['value', 'venue', 'fragile']);
    expect(axisOf(compiled, finish, 'nothing', ENVIRONMENT)).toBeNull();
  });

  test('each pair of values is handed on; what follows from them follows; neighbours that agree are one', () => {
    const found = whichWay(basis, finish, new Map(), { across: axis('value'), down: axis('venue') });
    expect(found.columns.map(({ extent }) => told(extent))).toEqual(['empty', '(null..100]', '(100..1000]', '(1000..null)']);
    expect(found.rows.map(({ extent }) => told(extent))).toEqual(['empty', '"home"', '"away"']);
    // From 100.01 on it is fragile, which is computed and read by the second branch.
    expect(found.ways.map((row) => row.map(wayIn))).toEqual([
      ['none', 'cheap', 'none', 'dear'],
      ['none', 'cheap', 'none', 'dear'],
      ['dear', 'dear', 'dear', 'dear'],
    ]);
  });

  test('a computed field stands for what it would come to', () => {
    const held = new Map<string, Value>([
      ['fragile', false],
      ['venue', 'home'],
    ]);
    const found = whichWay(basis, finish, held, { across: axis('value'), down: null });
    expect(found.columns.map(({ extent }) => told(extent))).toEqual(['empty', '(null..1000)', '1000', '(1000..null)']);
    expect(found.ways.map((row) => row.map(wayIn))).toEqual([['none', 'cheap', 'none', 'dear']]);
    const both = whichWay(basis, finish, new Map([['value', exactInteger(5) as Value]]), { across: axis('fragile'), down: null });
    expect(both.ways.map((row) => row.map(wayIn))).toEqual([['none', 'none', 'cheap']]);
  });

  test('where just one may hold, two that do are a clash', () => {
    const single = smallCompiled({
      fields: [{ type: 'number', key: 'n' }],
      handOffs: {
        finish: {
          policy: 'single',
          branches: [
            { key: 'low', name: 'Low', when: 'n <= 5', to: 'done' },
            { key: 'high', name: 'High', when: 'n >= 5', to: 'done' },
          ],
        },
      },
    });
    const own = single.handOffs.get('finish');
    const at = recordOf(single, {}, 'work');
    const form = enterInput(single, at, {}, CLERK, OUTSIDE);
    if (!form.ok || !own) throw new Error();
    const across = axisOf(single, own, 'n', ENVIRONMENT);
    if (!across) throw new Error();
    const found = whichWay(
      { workflow: single, record: at, given: form.value.given, actor: CLERK, outside: OUTSIDE },
      own,
      new Map(),
      { across, down: null },
    );
    expect(found.columns.map(({ extent }) => told(extent))).toEqual(['empty', '(null..5)', '5', '(5..null)']);
    expect(found.ways[0]?.map(wayIn)).toEqual(['otherwise', 'low', 'low&high', 'high']);
  });

  test('neighbours in order are joined, ends and all', () => {
    const joined = smallCompiled({
      fields: [{ type: 'number', key: 'n' }],
      handOffs: { finish: { branches: [{ key: 'few', name: 'Few', when: 'n in ([1..3], 4, 5)', to: 'done' }] } },
    });
    const own = joined.handOffs.get('finish');
    const at = recordOf(joined, {}, 'work');
    const form = enterInput(joined, at, {}, CLERK, OUTSIDE);
    const across = own && axisOf(joined, own, 'n', ENVIRONMENT);
    if (!form.ok || !own || !across) throw new Error();
    const found = whichWay(
      { workflow: joined, record: at, given: form.value.given, actor: CLERK, outside: OUTSIDE },
      own,
      new Map(),
      { across, down: null },
    );
    expect(found.columns.map(({ extent }) => told(extent))).toEqual(['empty', '(null..1)', '[1..5]', '(5..null)']);
  });
});
