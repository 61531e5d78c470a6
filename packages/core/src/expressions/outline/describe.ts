import { readDuration } from '../../values/temporal.ts';
import { printExpression } from '../print.ts';
import type { Node } from '../tree.ts';
import { TYPES, type Type } from '../types.ts';
import type { Comparison, OutlineItem, OutlineSubject } from './outline.ts';

/** Names of fields and labels of options, for sentences. */
export type Wording = {
  readonly nameOf: (path: readonly string[]) => string;
  readonly labelOf: (path: readonly string[], value: Node) => string;
};

const WORDS: Readonly<Record<Comparison, string>> = {
  is: 'is',
  'is-not': 'is not',
  'is-other': 'is filled and is not',
  holds: 'is yes',
  'is-empty': 'is empty',
  'is-filled': 'is filled',
  above: 'is above',
  'at-least': 'is at least',
  below: 'is below',
  'at-most': 'is at most',
  between: 'is between',
  'one-of': 'is one of',
  'not-one-of': 'is none of',
  includes: 'includes',
  contains: 'contains',
  'starts-with': 'starts with',
  'ends-with': 'ends with',
  matches: 'matches',
  'last-days': 'is within the last',
  'next-days': 'is within the next',
  'has-rows': 'has rows',
  'has-no-rows': 'has no rows',
};

const DATE_WORDS: Partial<Record<Comparison, string>> = {
  above: 'is after',
  'at-least': 'is on or after',
  below: 'is before',
  'at-most': 'is on or before',
};

/** A comparison in words; dates are before and after rather than below and above. */
export function describeComparison(comparison: Comparison, type: Type | null): string {
  const isTemporal = type?.kind === 'date' || type?.kind === 'date-time' || type?.kind === 'time';
  return (isTemporal ? DATE_WORDS[comparison] : undefined) ?? WORDS[comparison];
}

/** A condition as a sentence fragment: "Total value is above 50000 and (Venue country is not Home or …)". */
export function describeOutline(item: OutlineItem, wording: Wording): string {
  switch (item.kind) {
    case 'text':
      return printExpression(item.node);
    case 'rows':
      return `${item.which === 'some' ? 'any row' : 'every row'} of ${wording.nameOf(item.table)} where ${describeOutline(item.where, wording)}`;
    case 'group': {
      const parts = item.of.map((part) =>
        part.kind === 'group' && part.of.length > 1 ? `(${describeOutline(part, wording)})` : describeOutline(part, wording),
      );
      if (item.which === 'none') return `none of: ${parts.join('; ')}`;
      return parts.length === 0
        ? item.which === 'all'
          ? 'always'
          : 'never'
        : parts.join(item.which === 'all' ? ' and ' : ' or ');
    }
    case 'clause': {
      const path = item.subject.kind === 'field' ? item.subject.path : [];
      const values = item.values.map((value) => describeOperand(value, path, wording));
      const joined = item.comparison === 'between' ? values.join(' and ') : values.join(', ');
      const words = describeComparison(item.comparison, item.values.some(isTemporal) ? TYPES.date : null);
      return [describeSubject(item.subject, wording), words, joined].filter((part) => part !== '').join(' ');
    }
    default:
      return item satisfies never;
  }
}

/** Whether an operand is a date or a moment: "before" is said of it rather than "below". */
const isTemporal = (node: Node): boolean =>
  (node.kind === 'temporal' && readDuration(node.text) === null) ||
  (node.kind === 'call' && ['today', 'now', 'date', 'date and time'].includes(node.name)) ||
  (node.kind === 'arithmetic' && (isTemporal(node.left) || isTemporal(node.right)));

function describeOperand(value: Node, path: readonly string[], wording: Wording): string {
  if (value.kind === 'text') return wording.labelOf(path, value);
  if (value.kind === 'boolean') return value.value ? 'yes' : 'no';
  if (value.kind === 'temporal') return value.text.replace(/^P(\d+)D$/, '$1 days');
  return value.kind === 'name' ? wording.nameOf([value.name]) : printExpression(value);
}

function describeSubject(subject: OutlineSubject, wording: Wording): string {
  switch (subject.kind) {
    case 'field':
      return wording.nameOf(subject.path);
    case 'count':
      return `the number of rows of ${wording.nameOf(subject.table)}${subject.where ? ` where ${describeOutline(subject.where, wording)}` : ''}`;
    case 'total':
      return `the total of ${wording.nameOf([...subject.table, subject.column])}`;
    default:
      return subject satisfies never;
  }
}
