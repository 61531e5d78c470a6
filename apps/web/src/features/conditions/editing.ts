import {
  checkExpression,
  comparisonsFor,
  itemsOf,
  OPERANDS,
  type OutlineClause,
  type OutlineItem,
  type OutlineSubject,
  parseExpression,
  printExpression,
  type Scope,
  TYPES,
  type Type,
  writeOutline,
} from '@ypomet/core';
import { typeAt } from './subjects.ts';

/** Whether an item itself lacks nothing, whatever stands within it: a clause has its operands, a group has a clause. */
export function hasItsOwn(item: OutlineItem): boolean {
  switch (item.kind) {
    case 'group':
      return item.of.length > 0;
    case 'clause': {
      const wanted = OPERANDS[item.comparison];
      return wanted === null ? item.values.length > 0 : item.values.length === wanted;
    }
    case 'rows':
    case 'text':
      return true;
    default:
      return item satisfies never;
  }
}

/** Whether an item and everything within it is finished. A group without clauses is not: it would hold always, or never. */
export const isComplete = (item: OutlineItem): boolean => hasItsOwn(item) && itemsOf(item).every(isComplete);

/** The text of an outline once it is complete and means something in the scope; else what is wrong. */
export function textOf(item: OutlineItem, scope: Scope): { readonly text: string } | { readonly open: 'incomplete' | 'faulty' } {
  if (!isComplete(item)) return { open: 'incomplete' };
  const text = printExpression(writeOutline(item));
  const parsed = parseExpression(text);
  return parsed.ok && checkExpression(parsed.value, scope, TYPES.boolean).diagnostics.length === 0
    ? { text }
    : { open: 'faulty' };
}

export function typeOfSubject(subject: OutlineSubject, scope: Scope): Type | null {
  return subject.kind === 'field' ? typeAt(scope, subject.path) : TYPES.number;
}

export const subjectValue = (subject: OutlineSubject): string =>
  subject.kind === 'field'
    ? `field:${subject.path.join('.')}`
    : subject.kind === 'count'
      ? `count:${subject.table.join('.')}`
      : `total:${[...subject.table, subject.column].join('.')}`;

/** A new item for what was picked, with the likeliest comparison and no operands yet. */
export function itemFor(picked: string, scope: Scope): OutlineItem {
  const [kind = '', rest = ''] = picked.split(':');
  const path = rest.split('.');
  if (kind === 'some' || kind === 'every')
    return { kind: 'rows', which: kind, item: freeName(scope), table: path, where: { kind: 'group', which: 'all', of: [] } };
  const subject: OutlineSubject =
    kind === 'count'
      ? { kind: 'count', table: path, where: null }
      : kind === 'total'
        ? { kind: 'total', table: path.slice(0, -1), column: path.at(-1) ?? '' }
        : { kind: 'field', path };
  return clauseFor(subject, scope);
}

export function clauseFor(subject: OutlineSubject, scope: Scope): OutlineClause {
  const type = typeOfSubject(subject, scope);
  return { kind: 'clause', subject, comparison: (type && comparisonsFor(type)[0]) ?? 'is-filled', values: [] };
}

const freeName = (scope: Scope): string => ['o', 'row1', 'row2', 'row3'].find((name) => !scope.entries.has(name)) ?? 'each';
