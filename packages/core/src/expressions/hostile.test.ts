import { describe, expect, test } from '@jest/globals';
import { ENVIRONMENT, evaluate, evaluated, faults, namesOf } from '@ypomet/testkit/evaluate';
import { COLOURS, TYPINGS } from '@ypomet/testkit/generators';
import { Decimal } from 'decimal.js';
import fc from 'fast-check';
import { addExact, type Exact, exactInteger, readExact, writeExact } from '../values/exact.ts';
import { isList, kindOf, type Value } from '../values/value.ts';
import { listAllBuiltins } from './builtins/registry.ts';
import { checkExpression } from './check.ts';
import { compileExpression } from './compile.ts';
import { explainExpression } from './explain.ts';
import { makeFrame } from './frame.ts';
import { parseExpression, parseUnaryTests } from './parse.ts';
import { makeScope } from './scope.ts';
import { TYPES, typing } from './types.ts';

const scope = makeScope(TYPINGS);
const row: Value = { kind: 'context', id: null, entries: { size: exactInteger(3), colour: 'red', good: true } };
const slots: readonly Value[] = [
  readExact('12.50'),
  exactInteger(3),
  true,
  'green',
  'Beta',
  { kind: 'date', day: 20_000 },
  [row, row],
];

/** Parses, types, evaluates twice; whatever comes of it comes in an orderly way. */
function survive(text: string): Value | string {
  const parsed = parseExpression(text);
  const checked = parsed.ok ? checkExpression(parsed.value, scope) : null;
  const diagnostics = parsed.ok ? (checked?.diagnostics ?? []) : parsed.diagnostics;
  for (const { code, span } of diagnostics) {
    expect(code).toMatch(/^expression\//);
    expect(span && span.start >= 0 && span.start <= span.end && span.end <= text.length).toBe(true);
  }
  if (!checked || diagnostics.length > 0) return 'refused';
  const value = compileExpression(checked)(makeFrame(slots, ENVIRONMENT));
  expect(explainExpression(checked, makeFrame(slots, ENVIRONMENT)).value).toEqual(value);
  return value;
}

/** Pieces of which texts are made that parse and type more often than random letters do. */
const atom = fc.constantFrom(
  ...Object.keys(TYPINGS),
  'null',
  'true',
  '0',
  '-1',
  '1e400',
  '0.0000000000000000000000000000000000000001',
  '9007199254740993',
  '99999999999999999999999999999999999',
  '"text"',
  '""',
  `"${'x'.repeat(300)}"`,
  ...COLOURS.map((code) => `"${code}"`),
  '@"2024-02-29"',
  '@"P1D"',
  '@"P1M"',
  '@"-P999999999Y"',
  '@"23:59:59"',
  '[]',
  '[1..5]',
  'today()',
  'rows[1]',
  'rows[good]',
);
const builtins = listAllBuiltins();
const { text: anyText } = fc.letrec<{ text: string }>((tie) => ({
  text: fc.oneof(
    { depthSize: 'small' },
    { weight: 3, arbitrary: atom },
    {
      weight: 3,
      arbitrary: fc
        .tuple(tie('text'), fc.constantFrom('+', '-', '*', '/', '**', '=', '!=', '<', '>=', 'and', 'or', 'in'), tie('text'))
        .map(([a, operator, b]) => `(${a} ${operator} ${b})`),
    },
    {
      weight: 4,
      arbitrary: fc
        .tuple(fc.constantFrom(...builtins), fc.array(tie('text'), { maxLength: 4 }))
        .map(([{ name }, given]) => `${name}(${given.join(', ')})`),
    },
    { weight: 1, arbitrary: tie('text').map((of) => `[${of}, ${of}]`) },
    { weight: 1, arbitrary: tie('text').map((of) => `(some x in rows satisfies ${of})`) },
    { weight: 1, arbitrary: tie('text').map((of) => `(for x in [1, 2] return ${of})`) },
    { weight: 1, arbitrary: fc.tuple(tie('text'), tie('text')).map(([of, where]) => `${of}[${where}]`) },
    { weight: 1, arbitrary: fc.tuple(tie('text'), tie('text'), tie('text')).map(([a, b, c]) => `(if ${a} then ${b} else ${c})`) },
  ),
}));

describe('whatever is written, there is a value or an error with its place', () => {
  test('built-ins on every kind of argument', () => {
    const kinds = new Set<string>();
    fc.assert(
      fc.property(anyText, (text) => {
        const value = survive(text);
        kinds.add(value === 'refused' ? 'refused' : kindOf(value));
      }),
      { numRuns: 4000 },
    );
    expect([...kinds]).toEqual(expect.arrayContaining(['refused', 'null', 'boolean', 'number', 'text', 'list', 'date']));
  });

  test.each(builtins.map(({ name }) => name))('%s with empty arguments of every number', (name) => {
    for (let count = 0; count <= 5; count++) survive(`${name}(${Array.from({ length: count }, () => 'null').join(', ')})`);
  });

  /** A text of each kind of parameter. */
  const SAMPLES: Readonly<Record<string, string>> = {
    any: '1',
    boolean: 'true',
    number: '2',
    text: '"abc"',
    date: '@"2024-02-29"',
    time: '@"09:30:00"',
    'date-time': 'date and time("2027-07-12T10:00:00Z")',
    'days-duration': '@"P1D"',
    'months-duration': '@"P1M"',
    list: 'rows.size',
    range: '[1..5]',
  };
  const ways = builtins.flatMap(({ name, signatures }) => signatures.map((signature) => [name, signature.parameters] as const));

  test.each(ways)('%s takes null for any of its arguments', (name, parameters) => {
    const whole = parameters.map(({ type }) => SAMPLES[type.kind] ?? 'null');
    survive(`${name}(${whole.join(', ')})`);
    for (const place of parameters.keys()) {
      survive(`${name}(${whole.map((text, index) => (index === place ? 'null' : text)).join(', ')})`);
      // A name whose value is null is typed, and so passes where a bare null may not.
      survive(
        `${name}(${whole.map((text, index) => (index === place ? `(if flag = false then ${text} else null)` : text)).join(', ')})`,
      );
      survive(`${name}(${whole.map((text, index) => (index === place ? '[null]' : text)).join(', ')})`);
    }
  });

  test('random bytes and halves of texts', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string({ unit: 'binary', maxLength: 60 }),
          fc.tuple(anyText, fc.nat()).map(([text, at]) => text.slice(0, at % (text.length + 1))),
        ),
        (text) => {
          survive(text);
          const cell = parseUnaryTests(text);
          if (!cell.ok) expect(cell.diagnostics[0]?.span).toBeDefined();
        },
      ),
      { numRuns: 3000 },
    );
  });
});

describe('names of the language underneath are no names', () => {
  const NAMES = ['__proto__', 'constructor', 'prototype', 'hasOwnProperty', 'toString', 'valueOf', '__defineGetter__'];

  test.each(NAMES)('%s', (name) => {
    expect(faults(name)[0]).toMatch(/unknown-name/);
    expect(faults(`rows.${name}`, scope)[0]).toMatch(/unknown-part/);
    expect(faults(`day.${name}`, scope)[0]).toMatch(/unknown-part/);
    expect(faults(`rows[${name} = 1]`, scope)[0]).toMatch(/unknown-name/);
    expect(faults(`${name}(1)`, scope)[0]).toMatch(/unknown-function/);
    expect(faults(`substring(${name}: "a")`, scope)[0]).toBeDefined();
  });

  test('a value that names them stays a value', () => {
    expect(evaluated('distinct values(["__proto__", "constructor", "__proto__"])')).toBe('["__proto__", "constructor"]');
    expect(({} as { polluted?: boolean }).polluted).toBeUndefined();
  });
});

describe('bounds', () => {
  test.each([
    ['brackets', '('.repeat(5000)],
    ['lists', '['.repeat(5000)],
    ['negations', '-'.repeat(5000)],
    ['not', 'not('.repeat(5000)],
    ['if', 'if true then '.repeat(2000)],
    ['filters', `rows${'[true'.repeat(2000)}`],
    ['quantifiers', 'some x in rows satisfies '.repeat(500)],
    ['powers', `2${' ** 2'.repeat(3000)}`],
    ['sums', `1${' + 1'.repeat(4999)}`],
  ])('deep %s are refused, not run', (_, text) => {
    expect(faults(text, scope)[0]).toMatch(/too-deep|too-large|too-long|ends-early/);
  });

  test('ten megabytes are refused at once', () => {
    expect(faults(`"${'a'.repeat(10_000_000)}"`)).toEqual(['expression/too-long «»']);
    expect(faults('a '.repeat(5_000_000))).toEqual(['expression/too-long «»']);
  });

  test.each([
    '10 ** 6144 * 10',
    '10 ** 99999',
    'exp(99999999)',
    'for a in 1..100000, b in 1..100000 return a',
    'some a in (for i in 1..100000 return i), b in (for i in 1..100000 return i) satisfies false',
    'count(for a in 1..99999999 return a)',
    '@"2027-01-01" + @"P999999999Y"',
    '@"2027-01-01" + @"P3650000D" * 1000',
    'string join(for a in 1..100000 return "0123456789012345678901234567890123456789")',
    // Looked at before it is built: whole, these would be texts of many gigabytes.
    'string join(for a in 1..100000 return "", string join(for b in 1..20000 return "0123456789"))',
    'replace(string join(for a in 1..24000 return "a"), "a", string join(for b in 1..24000 return "b"))',
    'replace(string join(for a in 1..24000 return "a"), "a+", string join(for b in 1..9000 return "$0"))',
    // Counting day by day costs as many steps as there are days.
    'count(for a in 1..2000 return working days(@"2027-01-01", 10000))',
    'count(for a in 1..2000 return working hours(@"2027-01-01T10:00:00Z", 4999))',
    'count(for a in 1..2000 return product(for b in 1..100 return 99999999999999999999))',
  ])('%s is unknown', (text) => {
    expect(evaluated(text)).toBe('null');
  });

  test.each([
    ['(a+)+$', 'a'.repeat(30_000)],
    ['(a|a)*b', 'a'.repeat(30_000)],
    ['(.*)*x', 'y'.repeat(10_000)],
    ['^(([a-z])+.)+[A-Z]([a-z])+$', 'a'.repeat(10_000)],
  ])('the pattern %s, built to run away, ends', (pattern, long) => {
    expect(
      evaluate('matches(t, p)', {
        t: { typing: typing(TYPES.text, true), value: `${long}!` },
        p: { typing: typing(TYPES.text, true), value: pattern },
      }),
    ).toBe(false);
  });

  test('lists of a hundred thousand items stay quick to compare and to make distinct', () => {
    const long = Array.from({ length: 50_000 }, (_, index) => exactInteger(index));
    const names = { long: { typing: typing({ kind: 'list', of: typing(TYPES.number, true) }, true), value: long } };
    expect(evaluated('count(distinct values(concatenate(long, long)))', names)).toBe('50000');
    expect(evaluated('count(union(long, long))', names)).toBe('50000');
    expect(evaluated('long = long', names)).toBe('true');
    expect(evaluated('max(long)', names)).toBe('49999');
    expect(isList(namesOf(names).frame.slots[0] as Value)).toBe(true);
  });
});

describe('sums over ten thousand rows are exact', () => {
  // The reference: decimal.js 10.6.0 with 60 digits.
  const Reference = Decimal.clone({ precision: 60 });
  const amounts = fc.array(
    fc
      .tuple(fc.integer({ min: -99_999, max: 99_999 }), fc.integer({ min: 0, max: 99 }))
      .map(([whole, cents]) => `${whole}.${String(cents).padStart(2, '0')}`),
    { minLength: 10_000, maxLength: 10_000 },
  );
  const tableOf = (texts: readonly string[]) => {
    const rows = texts.map((text): Value => ({ kind: 'context', id: null, entries: { amount: readExact(text) } }));
    const entries = { amount: typing(TYPES.number, true) };
    return { rows: { typing: typing({ kind: 'list', of: typing({ kind: 'context', entries }, false) }, false), value: rows } };
  };

  test('against decimal.js', () => {
    fc.assert(
      fc.property(amounts, (texts) => {
        const total = texts.reduce((sum, text) => sum.plus(text), new Reference(0));
        const names = tableOf(texts);
        expect(evaluated('sum(rows.amount)', names)).toBe(total.toFixed());
        expect(evaluated(`sum(rows.amount) = ${total.toFixed()}`, names)).toBe('true');
        expect(evaluated(`sum(rows.amount) >= ${total.plus('0.01').toFixed()}`, names)).toBe('false');
      }),
      { numRuns: 5 },
    );
  });

  test('ten thousand times 0.1 is 1000, which a sum of doubles misses', () => {
    const tenths = Array.from({ length: 10_000 }, () => '0.1');
    expect(evaluated('sum(rows.amount)', tableOf(tenths))).toBe('1000');
    expect(tenths.reduce((sum, text) => sum + Number(text), 0)).not.toBe(1000);
  });

  test('one empty cell makes the sum unknown; the total that skips empty cells does not', () => {
    const names = tableOf([...Array.from({ length: 9_999 }, () => '0.1')]);
    const withGap = {
      rows: {
        ...names.rows,
        value: [...(names.rows.value as readonly Value[]), { kind: 'context' as const, id: null, entries: { amount: null } }],
      },
    };
    expect(evaluated('sum(rows.amount)', withGap)).toBe('null');
    expect(evaluated('sum(concatenate([0], rows.amount[item != null]))', withGap)).toBe('999.9');
  });

  test('beyond the safe integers nothing is lost', () => {
    const names = tableOf(Array.from({ length: 10_000 }, () => '999999999999999.99'));
    expect(evaluated('sum(rows.amount)', names)).toBe('9999999999999999900');
    const one = readExact('0.01') as Exact;
    expect(writeExact(addExact(readExact('9007199254740991') as Exact, one) as Exact)).toBe('9007199254740991.01');
  });
});
