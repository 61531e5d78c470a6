import { exactInteger, readExact, TYPES, type Typing, typing, type Value } from '@ypomet/core';
import fc from 'fast-check';

/**
 * Conditions small enough to be written in three languages: FEEL, JSON Schema and JsonLogic. Rows are read by the fields
 * of the same names.
 */
export type Plain =
  | { readonly kind: 'compare'; readonly field: 'amount' | 'size'; readonly operator: Operator; readonly literal: number }
  | { readonly kind: 'is' | 'is-not'; readonly field: 'shade'; readonly literal: string }
  | { readonly kind: 'between'; readonly field: 'amount' | 'size'; readonly low: number; readonly high: number }
  | { readonly kind: 'one-of'; readonly field: 'shade'; readonly of: readonly string[] }
  | { readonly kind: 'flag'; readonly field: 'flag' }
  | { readonly kind: 'all' | 'any'; readonly of: readonly Plain[] }
  | { readonly kind: 'not'; readonly of: Plain }
  | { readonly kind: 'if'; readonly test: Plain; readonly then: Plain; readonly otherwise: Plain }
  | { readonly kind: 'some' | 'every'; readonly of: Plain };
type Operator = '<' | '<=' | '>' | '>=';

export type PlainRecord = {
  readonly amount: number | null;
  readonly size: number | null;
  readonly shade: string | null;
  readonly flag: boolean | null;
  readonly rows: readonly Omit<PlainRecord, 'rows'>[];
};

const SHADES = ['red', 'green', 'blue'];
const number = fc.integer({ min: -40, max: 40 }).map((quarters) => quarters / 4);
const operator = fc.constantFrom<Operator>('<', '<=', '>', '>=');
const numeric = fc.constantFrom('amount' as const, 'size' as const);

const clause: fc.Arbitrary<Plain> = fc.oneof(
  fc.record({ kind: fc.constant('compare' as const), field: numeric, operator, literal: number }),
  fc.record({
    kind: fc.constantFrom('is' as const, 'is-not' as const),
    field: fc.constant('shade' as const),
    literal: fc.constantFrom(...SHADES),
  }),
  fc.record({ kind: fc.constant('between' as const), field: numeric, low: number, high: number }),
  fc.record({
    kind: fc.constant('one-of' as const),
    field: fc.constant('shade' as const),
    of: fc.subarray(SHADES, { minLength: 1 }),
  }),
  fc.constant<Plain>({ kind: 'flag', field: 'flag' }),
);

/** Conditions of clauses, groups, negations, choices between two and tests over rows; some of these can be left out. */
export function plainConditions(without: readonly Plain['kind'][] = []): fc.Arbitrary<Plain> {
  const { condition } = fc.letrec<{ condition: Plain }>((tie) => {
    const of = tie('condition');
    const groups = fc.record({
      kind: fc.constantFrom('all' as const, 'any' as const),
      of: fc.array(of, { minLength: 2, maxLength: 4 }),
    });
    const choices = fc.record({ kind: fc.constant('if' as const), test: of, then: of, otherwise: of });
    const rows = fc.record({ kind: fc.constantFrom('some' as const, 'every' as const), of: clause });
    const kinds: readonly (readonly [Plain['kind'], number, fc.Arbitrary<Plain>])[] = [
      ['compare', 3, clause],
      ['all', 3, groups],
      ['not', 1, fc.record({ kind: fc.constant('not' as const), of })],
      ['if', 1, choices],
      ['some', 1, rows],
    ];
    const kept = kinds.filter(([kind]) => !without.includes(kind));
    return {
      condition: fc.oneof({ depthSize: 'small' }, ...kept.map(([, weight, arbitrary]) => ({ weight, arbitrary }))),
    };
  });
  return condition;
}

/** Records; with `nulls`, a fifth of their values is null. */
export function plainRecords(nulls: boolean): fc.Arbitrary<PlainRecord> {
  const maybe = <T>(of: fc.Arbitrary<T>): fc.Arbitrary<T | null> =>
    nulls ? fc.oneof({ weight: 4, arbitrary: of }, { weight: 1, arbitrary: fc.constant(null) }) : of;
  const row = {
    amount: maybe(number),
    size: maybe(number),
    shade: maybe(fc.constantFrom(...SHADES)),
    flag: maybe(fc.boolean()),
  };
  return fc.record({ ...row, rows: fc.array(fc.record(row), { maxLength: 4 }) });
}

/** The condition in FEEL; `of` is what a field is read from. */
export function toFeel(condition: Plain, of = ''): string {
  switch (condition.kind) {
    case 'compare':
      return `${of}${condition.field} ${condition.operator} ${condition.literal}`;
    case 'is':
      return `${of}${condition.field} = "${condition.literal}"`;
    case 'is-not':
      return `${of}${condition.field} != "${condition.literal}"`;
    case 'between':
      return `${of}${condition.field} between ${condition.low} and ${condition.high}`;
    case 'one-of':
      return `${of}${condition.field} in (${condition.of.map((code) => `"${code}"`).join(', ')})`;
    case 'flag':
      return `${of}flag`;
    case 'all':
    case 'any':
      return `(${condition.of.map((part) => toFeel(part, of)).join(condition.kind === 'all' ? ' and ' : ' or ')})`;
    case 'not':
      return `not(${toFeel(condition.of, of)})`;
    case 'if':
      return `(if ${toFeel(condition.test, of)} then ${toFeel(condition.then, of)} else ${toFeel(condition.otherwise, of)})`;
    case 'some':
    case 'every':
      return `(${condition.kind} r in rows satisfies ${toFeel(condition.of, 'r.')})`;
    default:
      return condition satisfies never;
  }
}

const shade: Typing = typing({ kind: 'choice', options: SHADES.map((code) => ({ code, label: code })) }, true);
const entries = {
  amount: typing(TYPES.number, true),
  size: typing(TYPES.number, true),
  shade,
  flag: typing(TYPES.boolean, true),
};
/** The types of the names. */
export const PLAIN_TYPINGS: Readonly<Record<string, Typing>> = {
  ...entries,
  rows: typing({ kind: 'list', of: typing({ kind: 'context', entries }, false) }, false),
};

const exact = (value: number | null): Value => (value === null ? null : (readExact(String(value)) ?? exactInteger(0)));

/** The record as values of {@link PLAIN_TYPINGS}, in their order. */
export function plainValues(record: PlainRecord): readonly Value[] {
  const rows = record.rows.map(
    (row): Value => ({
      kind: 'context',
      id: null,
      entries: { amount: exact(row.amount), size: exact(row.size), shade: row.shade, flag: row.flag },
    }),
  );
  return [exact(record.amount), exact(record.size), record.shade, record.flag, rows];
}
