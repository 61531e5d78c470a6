import { readDuration } from '../../values/temporal.ts';
import { printExpression } from '../print.ts';
import type { CallNode, CompareNode, Node } from '../tree.ts';
import type { Comparison, OutlineClause, OutlineGroup, OutlineItem, OutlineSubject } from './outline.ts';

/** The comparison that an operator is. */
export const OPERATORS: Readonly<Record<CompareNode['operator'], Comparison>> = {
  '=': 'is',
  '!=': 'is-not',
  '>': 'above',
  '>=': 'at-least',
  '<': 'below',
  '<=': 'at-most',
};
const CALLS: Readonly<Record<string, Comparison>> = {
  'list contains': 'includes',
  contains: 'contains',
  'starts with': 'starts-with',
  'ends with': 'ends-with',
  matches: 'matches',
};

/** Views a condition as an outline. `writeOutline(readOutline(tree))` is the same tree, spans aside. */
export function readOutline(node: Node): OutlineItem {
  if (node.kind === 'all') return readOther(node.of) ?? { kind: 'group', which: 'all', of: node.of.map(readOutline) };
  if (node.kind === 'any') return { kind: 'group', which: 'any', of: node.of.map(readOutline) };
  if (node.kind === 'call' && node.name === 'not' && node.of.length === 1 && !node.parameters) return readNot(node.of[0] as Node);
  if (node.kind === 'quantified') {
    const binding = node.bindings[0];
    const table = binding && node.bindings.length === 1 ? pathOf(binding.source) : null;
    if (binding && table)
      return { kind: 'rows', which: node.which, item: binding.name, table, where: readOutline(node.satisfies) };
  }
  return readClause(node) ?? { kind: 'text', node };
}

/** As {@link readOutline}, always a group at the top. */
export function readOutlineGroup(node: Node): OutlineGroup {
  if (node.kind === 'boolean') return { kind: 'group', which: node.value ? 'all' : 'any', of: [] };
  const item = readOutline(node);
  return item.kind === 'group' ? item : { kind: 'group', which: 'all', of: [item] };
}

function readNot(inner: Node): OutlineItem {
  if (inner.kind === 'in') {
    const clause = readClause(inner);
    if (clause?.comparison === 'one-of') return { ...clause, comparison: 'not-one-of' };
  }
  return { kind: 'group', which: 'none', of: inner.kind === 'any' ? inner.of.map(readOutline) : [readOutline(inner)] };
}

function readClause(node: Node): OutlineClause | null {
  const made = (subject: OutlineSubject, comparison: Comparison, ...values: readonly Node[]): OutlineClause => ({
    kind: 'clause',
    subject,
    comparison,
    values,
  });
  if (node.kind === 'name' || node.kind === 'path') {
    const path = pathOf(node);
    return path && made({ kind: 'field', path }, 'holds');
  }
  if (node.kind === 'compare') {
    const subject = readSubject(node.left);
    if (!subject) return null;
    const rows = readHasRows(subject, node);
    if (rows) return made({ kind: 'field', path: rows.table }, rows.comparison);
    const isNull = node.right.kind === 'null';
    if (isNull && (node.operator === '=' || node.operator === '!='))
      return made(subject, node.operator === '=' ? 'is-empty' : 'is-filled');
    return made(subject, OPERATORS[node.operator], node.right);
  }
  if (node.kind === 'between') {
    const subject = readSubject(node.value);
    return subject && (readDays(node.low, node.high, subject) ?? made(subject, 'between', node.low, node.high));
  }
  if (node.kind === 'in') {
    const subject = readSubject(node.value);
    const values = node.tests.map((test) => (test.kind === 'matches' && isListed(test.node) ? test.node : null));
    return subject && !values.includes(null) ? made(subject, 'one-of', ...(values as readonly Node[])) : null;
  }
  return node.kind === 'call' ? readCall(node, made) : null;
}

const isListed = (node: Node): boolean => node.kind === 'text' || node.kind === 'number' || node.kind === 'temporal';

function readCall(
  node: CallNode,
  made: (subject: OutlineSubject, comparison: Comparison, ...values: readonly Node[]) => OutlineClause,
): OutlineClause | null {
  const comparison = Object.hasOwn(CALLS, node.name) ? CALLS[node.name] : undefined;
  const [first, second] = node.of;
  if (!comparison || !first || !second || node.of.length !== 2 || node.parameters) return null;
  const path = pathOf(first);
  return path && made({ kind: 'field', path }, comparison, second);
}

/** `x != v and x != null`: "is not, and is filled". */
function readOther(parts: readonly Node[]): OutlineClause | null {
  const [other, filled] = parts;
  if (parts.length !== 2 || other?.kind !== 'compare' || filled?.kind !== 'compare') return null;
  const subject = readSubject(other.left);
  const isOther =
    other.operator === '!=' && other.right.kind !== 'null' && filled.operator === '!=' && filled.right.kind === 'null';
  if (!subject || !isOther || printExpression(other.left) !== printExpression(filled.left)) return null;
  return { kind: 'clause', subject, comparison: 'is-other', values: [other.right] };
}

/** `x between today() - @"P30D" and today()`, and the same forward. */
function readDays(low: Node, high: Node, subject: OutlineSubject): OutlineClause | null {
  const back = low.kind === 'arithmetic' && low.operator === '-' && isToday(low.left) && isToday(high) ? low.right : null;
  const forward = high.kind === 'arithmetic' && high.operator === '+' && isToday(high.left) && isToday(low) ? high.right : null;
  const duration = back ?? forward;
  if (duration?.kind !== 'temporal' || !/^P\d{1,5}D$/.test(duration.text) || readDuration(duration.text) === null) return null;
  return { kind: 'clause', subject, comparison: back ? 'last-days' : 'next-days', values: [duration] };
}

const isToday = (node: Node): boolean => node.kind === 'call' && node.name === 'today' && node.of.length === 0;

/** `a`, `a.b`, `a.b.c` as a path; null for anything else. */
export function pathOf(node: Node): readonly string[] | null {
  if (node.kind === 'name') return [node.name];
  const of = node.kind === 'path' ? pathOf(node.of) : null;
  return of && node.kind === 'path' ? [...of, node.name] : null;
}

function readSubject(node: Node): OutlineSubject | null {
  const path = pathOf(node);
  if (path) return { kind: 'field', path };
  if (node.kind !== 'call' || node.of.length !== 1 || node.parameters) return null;
  const inner = node.of[0] as Node;
  if (node.name === 'count') {
    const table = pathOf(inner.kind === 'filter' ? inner.of : inner);
    return table && { kind: 'count', table, where: inner.kind === 'filter' ? readOutline(inner.where) : null };
  }
  return node.name === 'sum' ? readTotal(inner) : null;
}

/** `count(table) > 0` and `count(table) = 0`, of all its rows. */
function readHasRows(subject: OutlineSubject, { operator, right }: CompareNode) {
  if (subject.kind !== 'count' || subject.where || printExpression(right) !== '0') return null;
  const comparison = operator === '>' ? 'has-rows' : operator === '=' ? 'has-no-rows' : null;
  return comparison && ({ table: subject.table, comparison } as const);
}

/** `concatenate([0], table.column[item != null])`: a total that is 0 without rows and skips empty cells. */
function readTotal(node: Node): OutlineSubject | null {
  const [zero, filled] = node.kind === 'call' && node.name === 'concatenate' && node.of.length === 2 ? node.of : [];
  if (!zero || filled?.kind !== 'filter' || printExpression(zero) !== '[0]' || printExpression(filled.where) !== 'item != null')
    return null;
  const path = pathOf(filled.of);
  if (!path || path.length < 2) return null;
  return { kind: 'total', table: path.slice(0, -1), column: path.at(-1) as string };
}
