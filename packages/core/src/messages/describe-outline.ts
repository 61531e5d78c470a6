import type { Comparison, OutlineItem, OutlineSubject } from '../expressions/outline/outline.ts';
import { printExpression } from '../expressions/print.ts';
import type { Node } from '../expressions/tree.ts';
import { TYPES, type Type } from '../expressions/types.ts';
import { readDuration } from '../values/temporal.ts';
import type { Language } from './codes.ts';
import { fill } from './describe.ts';
import { EN } from './en.ts';

/** Names of fields and labels of options, for sentences. */
export type Wording = {
  readonly nameOf: (path: readonly string[]) => string;
  readonly labelOf: (path: readonly string[], value: Node) => string;
};

/** A comparison in words; dates are before and after rather than below and above. */
export function describeComparison(comparison: Comparison, type: Type | null, language: Language = EN): string {
  const isTemporal = type?.kind === 'date' || type?.kind === 'date-time' || type?.kind === 'time';
  return (isTemporal ? language.dateComparisons[comparison] : undefined) ?? language.comparisons[comparison];
}

/** A condition as a sentence fragment: "Total value is above 50000 and (Venue country is not Home or …)". */
export function describeOutline(item: OutlineItem, wording: Wording, language: Language = EN): string {
  const { outline } = language;
  switch (item.kind) {
    case 'text':
      return printExpression(item.node);
    case 'rows': {
      const params = { table: wording.nameOf(item.table), where: describeOutline(item.where, wording, language) };
      return fill(outline[item.which === 'some' ? 'some-rows' : 'every-row'], params);
    }
    case 'group': {
      const parts = item.of.map((part) => {
        const text = describeOutline(part, wording, language);
        return part.kind === 'group' && part.of.length > 1 ? fill(outline.group, { of: text }) : text;
      });
      if (item.which === 'none') return fill(outline['none-of'], { of: parts.join(outline['then-none']) });
      if (parts.length === 0) return item.which === 'all' ? outline.always : outline.never;
      return parts.join(item.which === 'all' ? outline.and : outline.or);
    }
    case 'clause': {
      const path = item.subject.kind === 'field' ? item.subject.path : [];
      const values = item.values.map((value) => describeOperand(value, path, wording, language));
      const joined = values.join(item.comparison === 'between' ? outline.and : outline.list);
      const words = describeComparison(item.comparison, item.values.some(isTemporal) ? TYPES.date : null, language);
      return [describeSubject(item.subject, wording, language), words, joined].filter((part) => part !== '').join(' ');
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

function describeOperand(value: Node, path: readonly string[], wording: Wording, { outline }: Language): string {
  if (value.kind === 'text') return wording.labelOf(path, value);
  if (value.kind === 'boolean') return value.value ? outline.yes : outline.no;
  if (value.kind === 'temporal') {
    const days = /^P(\d+)D$/.exec(value.text)?.[1];
    return days === undefined ? value.text : fill(outline.days, { count: days });
  }
  return value.kind === 'name' ? wording.nameOf([value.name]) : printExpression(value);
}

function describeSubject(subject: OutlineSubject, wording: Wording, language: Language): string {
  const { outline } = language;
  switch (subject.kind) {
    case 'field':
      return wording.nameOf(subject.path);
    case 'count': {
      const table = wording.nameOf(subject.table);
      return subject.where
        ? fill(outline['row-count-where'], { table, where: describeOutline(subject.where, wording, language) })
        : fill(outline['row-count'], { table });
    }
    case 'total':
      return fill(outline.total, { column: wording.nameOf([...subject.table, subject.column]) });
    default:
      return subject satisfies never;
  }
}
