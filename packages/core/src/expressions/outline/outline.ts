import type { Node } from '../tree.ts';
import type { Type } from '../types.ts';

/** What a clause is about: a field (or part of a reference or row), the number of rows, or the total of a column. */
export type OutlineSubject =
  | { readonly kind: 'field'; readonly path: readonly string[] }
  | { readonly kind: 'count'; readonly table: readonly string[]; readonly where: OutlineItem | null }
  | { readonly kind: 'total'; readonly table: readonly string[]; readonly column: string };

export const COMPARISONS = [
  'is',
  'is-not',
  'is-other',
  'holds',
  'is-empty',
  'is-filled',
  'above',
  'at-least',
  'below',
  'at-most',
  'between',
  'one-of',
  'not-one-of',
  'includes',
  'contains',
  'starts-with',
  'ends-with',
  'matches',
  'last-days',
  'next-days',
  'has-rows',
  'has-no-rows',
] as const;
export type Comparison = (typeof COMPARISONS)[number];

/** A condition as people arrange it. What fits no clause stays text. Lossless both ways: see `read.ts` and `write.ts`. */
export type OutlineItem = OutlineGroup | OutlineClause | OutlineRows | OutlineText;
export type OutlineGroup = {
  readonly kind: 'group';
  readonly which: 'all' | 'any' | 'none';
  readonly of: readonly OutlineItem[];
};
/** `values` are the comparison's operands: literals mostly, or other fields. */
export type OutlineClause = {
  readonly kind: 'clause';
  readonly subject: OutlineSubject;
  readonly comparison: Comparison;
  readonly values: readonly Node[];
};
/** Any row, or every row, of a table for which the inner condition holds. */
export type OutlineRows = {
  readonly kind: 'rows';
  readonly which: 'some' | 'every';
  readonly item: string;
  readonly table: readonly string[];
  readonly where: OutlineItem;
};
export type OutlineText = { readonly kind: 'text'; readonly node: Node };

/** How many operands a comparison takes; null for any number. */
export const OPERANDS: Readonly<Record<Comparison, number | null>> = {
  is: 1,
  'is-not': 1,
  'is-other': 1,
  holds: 0,
  'is-empty': 0,
  'is-filled': 0,
  above: 1,
  'at-least': 1,
  below: 1,
  'at-most': 1,
  between: 2,
  'one-of': null,
  'not-one-of': null,
  includes: 1,
  contains: 1,
  'starts-with': 1,
  'ends-with': 1,
  matches: 1,
  'last-days': 1,
  'next-days': 1,
  'has-rows': 0,
  'has-no-rows': 0,
};

const ORDER: readonly Comparison[] = ['is', 'is-not', 'is-other', 'above', 'at-least', 'below', 'at-most', 'between'];
const EMPTY: readonly Comparison[] = ['is-empty', 'is-filled'];

/** The comparisons that fit a type, the likeliest first. */
export function comparisonsFor(type: Type): readonly Comparison[] {
  switch (type.kind) {
    case 'boolean':
      return ['is', 'is-not', ...EMPTY];
    case 'number':
      return ['above', 'at-least', 'below', 'at-most', 'between', 'is', 'is-not', 'is-other', ...EMPTY];
    case 'date':
    case 'date-time':
      return [...ORDER, 'last-days', 'next-days', ...EMPTY];
    case 'time':
    case 'days-duration':
    case 'months-duration':
      return [...ORDER, ...EMPTY];
    case 'choice':
      return ['is', 'is-not', 'is-other', 'one-of', 'not-one-of', ...EMPTY];
    case 'text':
      return ['is', 'is-not', 'is-other', 'contains', 'starts-with', 'ends-with', 'matches', 'one-of', 'not-one-of', ...EMPTY];
    case 'list':
      // A table is never null: it has rows or none.
      return type.of.type.kind === 'context' ? ['has-no-rows', 'has-rows'] : ['includes', ...EMPTY];
    case 'context':
    case 'range':
    case 'null':
    case 'any':
      return EMPTY;
    default:
      return type satisfies never;
  }
}
