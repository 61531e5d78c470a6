import { exactInteger } from '../../values/exact.ts';
import { type CallNode, type ComparisonOperator, NOWHERE, type Node } from '../tree.ts';
import type { Comparison, OutlineClause, OutlineItem, OutlineSubject } from './outline.ts';

const span = NOWHERE;
const NULL: Node = { kind: 'null', span };
const NONE: Node = { kind: 'number', value: exactInteger(0), span };
const call = (name: string, ...of: readonly Node[]): CallNode => ({
  kind: 'call',
  name,
  nameSpan: span,
  of,
  parameters: null,
  span,
});
const compare = (left: Node, operator: ComparisonOperator, right: Node): Node => ({
  kind: 'compare',
  operator,
  left,
  right,
  span,
});
const today = (): Node => call('today');

/** The tree of `a.b.c`. */
export const writePath = (path: readonly string[]): Node =>
  path
    .slice(1)
    .reduce<Node>((of, name) => ({ kind: 'path', of, name, nameSpan: span, span }), { kind: 'name', name: path[0] ?? '', span });

/** The condition an outline stands for. An empty group of *all* holds, an empty one of *any* doesn't. */
export function writeOutline(item: OutlineItem): Node {
  switch (item.kind) {
    case 'text':
      return item.node;
    case 'rows': {
      const binding = { name: item.item, nameSpan: span, source: writePath(item.table) };
      return { kind: 'quantified', which: item.which, bindings: [binding], satisfies: writeOutline(item.where), span };
    }
    case 'group':
      return writeGroup(item.which, item.of.map(writeOutline));
    case 'clause':
      return writeClause(item);
    default:
      return item satisfies never;
  }
}

function writeGroup(which: 'all' | 'any' | 'none', of: readonly Node[]): Node {
  const [only] = of;
  if (which === 'none')
    return only ? call('not', of.length === 1 ? only : { kind: 'any', of, span }) : { kind: 'boolean', value: true, span };
  if (!only) return { kind: 'boolean', value: which === 'all', span };
  return of.length === 1 ? only : { kind: which, of, span };
}

/** The tree of what a clause is about. */
export function writeSubject(subject: OutlineSubject): Node {
  switch (subject.kind) {
    case 'field':
      return writePath(subject.path);
    case 'count': {
      const table = writePath(subject.table);
      return call('count', subject.where ? { kind: 'filter', of: table, where: writeOutline(subject.where), span } : table);
    }
    case 'total': {
      const isFilled = compare({ kind: 'name', name: 'item', span }, '!=', NULL);
      const filled: Node = { kind: 'filter', of: writePath([...subject.table, subject.column]), where: isFilled, span };
      const zero: Node = { kind: 'list', of: [{ kind: 'number', value: exactInteger(0), span }], span };
      return call('sum', call('concatenate', zero, filled));
    }
    default:
      return subject satisfies never;
  }
}

const OPERATORS: Partial<Record<Comparison, ComparisonOperator>> = {
  is: '=',
  'is-not': '!=',
  above: '>',
  'at-least': '>=',
  below: '<',
  'at-most': '<=',
};
const CALLS: Partial<Record<Comparison, string>> = {
  includes: 'list contains',
  contains: 'contains',
  'starts-with': 'starts with',
  'ends-with': 'ends with',
  matches: 'matches',
};

function writeClause({ subject, comparison, values }: OutlineClause): Node {
  const left = writeSubject(subject);
  const [first = NULL, second = NULL] = values;
  const operator = OPERATORS[comparison];
  if (operator) return compare(left, operator, first);
  const name = CALLS[comparison];
  if (name) return call(name, left, first);
  switch (comparison) {
    case 'holds':
      return left;
    case 'is-empty':
      return compare(left, '=', NULL);
    case 'is-filled':
      return compare(left, '!=', NULL);
    case 'has-rows':
      return compare(call('count', left), '>', NONE);
    case 'has-no-rows':
      return compare(call('count', left), '=', NONE);
    case 'is-other':
      return { kind: 'all', of: [compare(left, '!=', first), compare(writeSubject(subject), '!=', NULL)], span };
    case 'between':
      return { kind: 'between', value: left, low: first, high: second, span };
    case 'one-of':
    case 'not-one-of': {
      const test: Node = { kind: 'in', value: left, tests: values.map((node) => ({ kind: 'matches', node, span })), span };
      return comparison === 'one-of' ? test : call('not', test);
    }
    case 'last-days':
      return {
        kind: 'between',
        value: left,
        low: { kind: 'arithmetic', operator: '-', left: today(), right: first, span },
        high: today(),
        span,
      };
    case 'next-days':
      return {
        kind: 'between',
        value: left,
        low: today(),
        high: { kind: 'arithmetic', operator: '+', left: today(), right: first, span },
        span,
      };
    default:
      throw new Error(`no writer for ${comparison}`);
  }
}
