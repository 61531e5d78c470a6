import { exactInteger, makeLiteral, type Node, readDate, readExact, TYPES, type Typing, typing, type Value } from '@ypomet/core';
import fc from 'fast-check';
import type { Names } from './evaluate.ts';

const span = { start: 0, end: 0 };

export const COLOURS = ['red', 'green', 'blue'] as const;
const colour = { kind: 'choice' as const, options: COLOURS.map((code) => ({ code, label: code })) };
const row = {
  kind: 'context' as const,
  entries: { size: typing(TYPES.number, true), colour: typing(colour, true), good: typing(TYPES.boolean, true) },
};

/** The names that generated conditions read. */
export const TYPINGS: Readonly<Record<string, Typing>> = {
  amount: typing(TYPES.number, true),
  count1: typing(TYPES.number, true),
  flag: typing(TYPES.boolean, true),
  shade: typing(colour, true),
  label: typing(TYPES.text, true),
  day: typing(TYPES.date, true),
  rows: typing({ kind: 'list', of: typing(row, false) }, false),
};

const integer = fc.integer({ min: -9, max: 9 }).map((value) => exactInteger(value) as Value);
const words = fc.constantFrom('', 'a', 'ab', 'Beta', 'Ωmega', '\u{1f600}');
const date = fc.constantFrom('2024-02-29', '2026-11-25', '2027-01-31').map((text) => readDate(text) as Value);
const maybe = (values: fc.Arbitrary<Value>): fc.Arbitrary<Value> =>
  fc.oneof({ weight: 4, arbitrary: values }, { weight: 1, arbitrary: fc.constant(null) });

const rowValue = fc
  .record({ size: maybe(integer), colour: maybe(fc.constantFrom(...COLOURS)), good: maybe(fc.boolean()) })
  .map((entries): Value => ({ kind: 'context', id: null, entries }));

const name = (text: string): Node => ({ kind: 'name', name: text, span });
const literal = (value: Value): Node => makeLiteral(value) as Node;
const path = (of: Node, part: string): Node => ({ kind: 'path', of, name: part, nameSpan: span, span });
const comparison = fc.constantFrom('=' as const, '!=' as const, '<' as const, '<=' as const, '>' as const, '>=' as const);
const equality = fc.constantFrom('=' as const, '!=' as const);

/** Values and conditions over {@link TYPINGS} whose numbers are the integers and those of `decimal`. */
export function makeGenerators(decimal: fc.Arbitrary<Value>): {
  readonly namedValues: fc.Arbitrary<Names>;
  readonly clauseNode: fc.Arbitrary<Node>;
  readonly conditionNode: fc.Arbitrary<Node>;
} {
  /** Values for {@link TYPINGS}; a fifth of them null. */
  const namedValues: fc.Arbitrary<Names> = fc
    .record({
      amount: maybe(decimal),
      count1: maybe(integer),
      flag: maybe(fc.boolean()),
      shade: maybe(fc.constantFrom(...COLOURS)),
      label: maybe(words),
      day: maybe(date),
      rows: fc.array(rowValue, { maxLength: 4 }).map((list) => list as Value),
    })
    .map((values) =>
      Object.fromEntries(Object.entries(values).map(([name, value]) => [name, { typing: TYPINGS[name] as Typing, value }])),
    );

  const numberNode: fc.Arbitrary<Node> = fc.letrec<{ number: Node }>((tie) => ({
    number: fc.oneof(
      { depthSize: 'small' },
      fc.constantFrom(name('amount'), name('count1')),
      fc.oneof(decimal, integer).map(literal),
      fc
        .tuple(fc.constantFrom('+' as const, '-' as const, '*' as const), tie('number'), tie('number'))
        .map(([operator, left, right]): Node => ({ kind: 'arithmetic', operator, left, right, span })),
      tie('number').map((of): Node => ({ kind: 'negate', of, span })),
      fc.constant<Node>({ kind: 'call', name: 'count', nameSpan: span, of: [name('rows')], parameters: null, span }),
    ),
  })).number;

  const compare = (
    operator: fc.Arbitrary<'=' | '!=' | '<' | '<=' | '>' | '>='>,
    left: fc.Arbitrary<Node>,
    right: fc.Arbitrary<Node>,
  ): fc.Arbitrary<Node> =>
    fc.tuple(operator, left, right).map(([op, a, b]): Node => ({ kind: 'compare', operator: op, left: a, right: b, span }));

  const ofRow = (item: string): fc.Arbitrary<Node> =>
    fc.oneof(
      compare(comparison, fc.constant(path(name(item), 'size')), integer.map(literal)),
      compare(equality, fc.constant(path(name(item), 'colour')), fc.constantFrom(...COLOURS).map(literal)),
      fc.constant(path(name(item), 'good')),
    );

  const rowsNode: fc.Arbitrary<Node> = fc.tuple(fc.constantFrom('some' as const, 'every' as const), ofRow('r')).map(
    ([which, satisfies]): Node => ({
      kind: 'quantified',
      which,
      bindings: [{ name: 'r', nameSpan: span, source: name('rows') }],
      satisfies,
      span,
    }),
  );

  /** A clause of the scope of {@link TYPINGS}. */
  const clauseNode: fc.Arbitrary<Node> = fc.oneof(
    compare(comparison, numberNode, numberNode),
    compare(equality, fc.constant(name('shade')), fc.constantFrom(...COLOURS).map(literal)),
    compare(equality, fc.constant(name('label')), words.map(literal)),
    compare(comparison, fc.constant(name('day')), date.map(literal)),
    compare(
      equality,
      fc.constantFrom(name('amount'), name('shade'), name('label'), name('day'), name('flag')),
      fc.constant(literal(null)),
    ),
    fc.constant(name('flag')),
    fc
      .tuple(decimal, decimal)
      .map(([low, high]): Node => ({ kind: 'between', value: name('amount'), low: literal(low), high: literal(high), span })),
    fc.uniqueArray(fc.constantFrom(...COLOURS), { minLength: 1 }).map(
      (codes): Node => ({
        kind: 'in',
        value: name('shade'),
        tests: codes.map((code) => ({ kind: 'matches', node: literal(code), span })),
        span,
      }),
    ),
    rowsNode,
  );

  /** A condition: clauses in groups nested to a few levels. */
  const conditionNode: fc.Arbitrary<Node> = fc.letrec<{ condition: Node }>((tie) => ({
    condition: fc.oneof(
      { depthSize: 'small' },
      { weight: 3, arbitrary: clauseNode },
      {
        weight: 2,
        arbitrary: fc
          .tuple(fc.constantFrom('all' as const, 'any' as const), fc.array(tie('condition'), { minLength: 2, maxLength: 4 }))
          .map(([kind, of]): Node => ({ kind, of, span })),
      },
      {
        weight: 1,
        arbitrary: tie('condition').map(
          (of): Node => ({ kind: 'call', name: 'not', nameSpan: span, of: [of], parameters: null, span }),
        ),
      },
      {
        weight: 1,
        arbitrary: fc
          .tuple(tie('condition'), tie('condition'), tie('condition'))
          .map(([test, then, otherwise]): Node => ({ kind: 'if', test, then, otherwise, span })),
      },
    ),
  })).condition;

  return { namedValues, clauseNode, conditionNode };
}

const fraction = (parts: fc.Arbitrary<string>): fc.Arbitrary<Value> =>
  fc.tuple(fc.integer({ min: -500, max: 500 }), parts).map(([whole, part]) => readExact(`${whole}.${part}`) as Value);

/** Amounts with cents. */
export const { namedValues, clauseNode, conditionNode } = makeGenerators(
  fraction(fc.integer({ min: 0, max: 99 }).map((cents) => String(cents).padStart(2, '0'))),
);

/** Numbers that a binary double holds exactly, for comparison with what reckons in doubles. */
export const dyadic = makeGenerators(fraction(fc.constantFrom('0', '25', '5', '75')));
