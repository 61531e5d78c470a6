import { type Comparison, OPERANDS, type OutlineItem, type OutlineSubject } from '../expressions/outline/outline.ts';
import { OPERATORS, pathOf, readOutline } from '../expressions/outline/read.ts';
import { printExpression } from '../expressions/print.ts';
import type { ArithmeticNode, CallNode, Node } from '../expressions/tree.ts';
import { TYPES, type Type } from '../expressions/types.ts';
import { readDate, readDateTime, readDuration, readTime } from '../values/temporal.ts';
import type { Value } from '../values/value.ts';
import type { Language } from './codes.ts';
import { fill } from './describe.ts';
import { EN } from './en.ts';
import type { Wording } from './wording.ts';

/** A comparison in words; dates are before and after rather than below and above. */
export function describeComparison(comparison: Comparison, type: Type | null, language: Language = EN): string {
  const isTemporal = type?.kind === 'date' || type?.kind === 'date-time' || type?.kind === 'time';
  return (isTemporal ? language.dateComparisons[comparison] : undefined) ?? language.comparisons[comparison];
}

/** A part of a sentence: what is compared, how, or with what. Operands are shown as values. */
export type Phrase = { readonly kind: 'subject' | 'comparison' | 'value' | 'join'; readonly text: string };

/** A condition as a sentence fragment: "Total value is above €50,000.00 and (Venue country is not Home or …)". */
export function describeOutline(item: OutlineItem, wording: Wording, language: Language = EN): string {
  const { outline } = language;
  switch (item.kind) {
    case 'text':
      if (item.node.kind === 'boolean') return item.node.value ? outline.always : outline.never;
      return describeNode(item.node, wording, null, language);
    case 'rows': {
      const where = describeOutline(item.where, wording.within(item.item, item.table), language);
      return fill(outline[item.which === 'some' ? 'some-rows' : 'every-row'], { table: wording.nameOf(item.table), where });
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
    case 'clause':
      return phrasesOf(item, wording, language)
        .map(({ text }) => text)
        .join(' ');
    default:
      return item satisfies never;
  }
}

/** An expression as a sentence fragment: a condition, or what a value is made of. */
export const describeExpression = (node: Node, wording: Wording, language: Language = EN): string =>
  describeNode(node, wording, null, language);

/** A clause in its parts: subject, comparison, and its operands, with what stands between them. */
export function phrasesOf(
  clause: Extract<OutlineItem, { kind: 'clause' }>,
  wording: Wording,
  language: Language = EN,
): readonly Phrase[] {
  const { subject, comparison, values } = clause;
  const path = pathOfSubject(subject);
  const words = describeComparison(comparison, values.some(isTemporal) ? TYPES.date : null, language);
  const operands = values.map((value) => describeNode(value, wording, path, language));
  return [
    { kind: 'subject', text: describeSubject(subject, wording, language) },
    { kind: 'comparison', text: words },
    ...(OPERANDS[comparison] === null
      ? [{ kind: 'value' as const, text: operands.join(language.outline.list) }].filter(({ text }) => text !== '')
      : operands.flatMap((text, index): readonly Phrase[] => [
          ...(index === 0 ? [] : [{ kind: 'join' as const, text: language.outline.and.trim() }]),
          { kind: 'value', text },
        ])),
  ];
}

/** Whose values the operands of a clause are: a total's are those of its column. */
function pathOfSubject(subject: OutlineSubject): readonly string[] | null {
  if (subject.kind === 'field') return subject.path;
  return subject.kind === 'total' ? [...subject.table, subject.column] : null;
}

/** Whether an operand is a date or a moment: "before" is said of it rather than "below". */
const isTemporal = (node: Node): boolean =>
  (node.kind === 'temporal' && readDuration(node.text) === null) ||
  (node.kind === 'call' && ['today', 'now', 'date', 'date and time', 'working days', 'working hours'].includes(node.name)) ||
  (node.kind === 'arithmetic' && (isTemporal(node.left) || isTemporal(node.right)));

export function describeSubject(subject: OutlineSubject, wording: Wording, language: Language = EN): string {
  const { outline } = language;
  switch (subject.kind) {
    case 'field':
      return wording.nameOf(subject.path);
    case 'count': {
      const table = wording.nameOf(subject.table);
      if (!subject.where) return fill(outline['row-count'], { table });
      const where = describeOutline(subject.where, wording.within(null, subject.table), language);
      return fill(outline['row-count-where'], { table, where });
    }
    case 'total':
      return fill(outline.total, { column: wording.nameOf([...subject.table, subject.column]) });
    default:
      return subject satisfies never;
  }
}

const CONDITIONS: ReadonlySet<Node['kind']> = new Set(['all', 'any', 'compare', 'between', 'in', 'quantified']);
const SIGNS: Readonly<Record<ArithmeticNode['operator'], string>> = { '+': '+', '-': '−', '*': '×', '/': '÷', '**': '^' };

/** `beside`: the path that a literal is compared with, or counted together with; its values are written like that field's. */
function describeNode(node: Node, wording: Wording, beside: readonly string[] | null, language: Language): string {
  const { outline } = language;
  const tell = (inner: Node, next = beside): string => describeNode(inner, wording, next, language);
  const literal = literalIn(node, wording.zone);
  if (literal !== undefined) {
    if (literal === null) return outline.nothing;
    if (typeof literal === 'boolean') return literal ? outline.yes : outline.no;
    return wording.format(literal, beside);
  }
  const path = pathOf(node);
  if (path) return path.join('.') === 'item' ? outline.item : wording.nameOf(path);
  if (CONDITIONS.has(node.kind)) {
    const read = readOutline(node);
    return read.kind === 'text' ? describeTest(node, wording, language) : describeOutline(read, wording, language);
  }
  switch (node.kind) {
    case 'arithmetic':
      return describeArithmetic(node, wording, beside, language);
    case 'negate':
      return `−${tell(node.of)}`;
    case 'list':
      return node.of.map((one) => tell(one)).join(outline.list);
    case 'if':
      return fill(outline.choose, {
        then: tell(node.then),
        test: describeOutline(readOutline(node.test), wording, language),
        otherwise: tell(node.otherwise),
      });
    case 'filter': {
      const table = pathOf(node.of);
      if (!table) return printExpression(node);
      const where = describeNode(node.where, wording.within(null, table), null, language);
      return fill(outline.where, { table: wording.nameOf(table), where });
    }
    case 'call':
      return describeCall(node, wording, language);
    default:
      return printExpression(node);
  }
}

/** A comparison that is no clause: of what is worked out rather than read. */
function describeTest(node: Node, wording: Wording, language: Language): string {
  const { outline } = language;
  const tell = (inner: Node, beside: readonly string[] | null = null): string => describeNode(inner, wording, beside, language);
  if (node.kind === 'compare') {
    const words = describeComparison(
      OPERATORS[node.operator],
      isTemporal(node.left) || isTemporal(node.right) ? TYPES.date : null,
      language,
    );
    return `${tell(node.left, pathOf(node.right))} ${words} ${tell(node.right, pathOf(node.left))}`;
  }
  if (node.kind === 'between') {
    const beside = pathOf(node.value);
    const ends = [tell(node.low, beside), tell(node.high, beside)].join(outline.and);
    return `${tell(node.value)} ${describeComparison('between', null, language)} ${ends}`;
  }
  return printExpression(node);
}

function describeArithmetic(
  node: ArithmeticNode,
  wording: Wording,
  beside: readonly string[] | null,
  language: Language,
): string {
  const { left, operator, right } = node;
  if (isToday(left) && right.kind === 'temporal' && (operator === '-' || operator === '+')) {
    const days = describeNode(right, wording, null, language);
    return fill(language.outline[operator === '-' ? 'before-today' : 'after-today'], { days });
  }
  // What is added to an amount is an amount; what it is multiplied with is a plain number.
  const isSum = operator === '+' || operator === '-';
  const other = isSum ? (pathOf(left) ?? pathOf(right) ?? beside) : null;
  const part = (inner: Node): string => {
    const text = describeNode(inner, wording, other, language);
    return inner.kind === 'arithmetic' && inner.operator !== operator ? fill(language.outline.group, { of: text }) : text;
  };
  return `${part(left)} ${SIGNS[operator]} ${part(right)}`;
}

const isToday = (node: Node): boolean => node.kind === 'call' && node.name === 'today' && node.of.length === 0;

function describeCall(node: CallNode, wording: Wording, language: Language): string {
  const { outline } = language;
  const [first] = node.of;
  const item = readOutline(node);
  if (item.kind !== 'text') return describeOutline(item, wording, language);
  if (isToday(node)) return outline.today;
  if (node.name === 'now' && !first) return outline.now;
  const tell = (inner: Node): string => describeNode(inner, wording, null, language);
  if (node.name === 'count' && node.of.length === 1 && first) {
    const table = first.kind === 'filter' ? first.of : first;
    const where =
      first.kind === 'filter' && pathOf(table)
        ? describeNode(first.where, wording.within(null, pathOf(table) ?? []), null, language)
        : null;
    return where === null
      ? fill(outline['row-count'], { table: tell(table) })
      : fill(outline['row-count-where'], { table: tell(table), where });
  }
  if (node.name === 'sum' && node.of.length === 1 && first) return fill(outline.sum, { of: tell(first) });
  const [, second] = node.of;
  if ((node.name === 'working days' || node.name === 'working hours') && first && second) {
    const isBack = second.kind === 'negate';
    const what = node.name === 'working days' ? 'days' : 'hours';
    return fill(outline[`working-${what}-${isBack ? 'before' : 'after'}`], {
      count: tell(isBack ? second.of : second),
      from: tell(first),
    });
  }
  return `${node.name}(${node.of.map(tell).join(outline.list)})`;
}

/** The value of a literal; undefined for every other node. Moments without an offset are those of the zone's clock. */
function literalIn(node: Node, zone: string): Value | undefined {
  switch (node.kind) {
    case 'null':
      return null;
    case 'boolean':
    case 'number':
    case 'text':
      return node.value;
    case 'temporal':
      return readDate(node.text) ?? readTime(node.text) ?? readDuration(node.text) ?? readDateTime(node.text, zone) ?? undefined;
    default:
      return undefined;
  }
}
