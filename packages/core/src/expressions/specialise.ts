import { compareExact, negateExact, ZERO } from '../values/exact.ts';
import { writeDate, writeDuration, writeTime, writeZonedDateTime } from '../values/temporal.ts';
import { isList, type Value } from '../values/value.ts';
import type { CheckedExpression } from './check.ts';
import { explainExpression } from './explain.ts';
import type { Frame } from './frame.ts';
import { childrenOf, NOWHERE, type Node, withChildren } from './tree.ts';

/** What is left of an expression when some of its names are known. */
export type Specialised = {
  readonly node: Node;
  /**
   * True when a known value, or what was computed from one, still stands in the expression other than as the truth of
   * the whole: whoever may not see the known values may not be sent it.
   */
  readonly reveals: boolean;
};

/**
 * Folds what is known and leaves the rest: evaluating the result equals evaluating the whole. `now()` and `today()` are
 * known only when `clock` says so; then constants are worked out too. Known values that no literal can write (rows) stay as names.
 */
export function specialiseExpression(
  checked: CheckedExpression,
  isKnown: (name: string) => boolean,
  frame: Frame,
  clock: 'known' | 'open' = 'open',
): Specialised {
  const folded = new Set<Node>();
  const specialise = (node: Node): Node => {
    if (isClosed(node, checked, isKnown, clock)) {
      // What is written out stays as it is written, unless it is to be worked out once and for all.
      if (clock === 'open' && !readsAnything(node, checked)) return node;
      const literal = makeLiteral(explainExpression({ ...checked, node }, frame).value);
      if (literal) folded.add(literal);
      return literal ?? node;
    }
    // Within loops only constants are worked out, and only once and for all: a browser gets answers row by row instead.
    const children = childrenOf(node).map((child) =>
      clock === 'open' && dependsOnItem(child, checked) ? child : specialise(child),
    );
    return simplify(withChildren(node, children), folded);
  };
  const node = specialise(checked.node);
  const mentions = (inner: Node): boolean => (inner !== node && folded.has(inner)) || childrenOf(inner).some(mentions);
  const isTruthOrNothing = node.kind === 'boolean' || node.kind === 'null';
  const namesKnown = (inner: Node): boolean =>
    (inner.kind === 'name' && checked.references.get(inner)?.kind === 'slot' && isKnown(inner.name)) ||
    childrenOf(inner).some(namesKnown);
  return { node, reveals: mentions(node) || namesKnown(node) || (folded.has(node) && !isTruthOrNothing) };
}

const CLOCK: ReadonlySet<string> = new Set(['now', 'today']);

function isClosed(node: Node, checked: CheckedExpression, isKnown: (name: string) => boolean, clock: 'known' | 'open'): boolean {
  if (dependsOnItem(node, checked)) return false;
  const closed = (inner: Node): boolean => {
    if (inner.kind === 'name' && checked.references.get(inner)?.kind === 'slot') return isKnown(inner.name);
    if (inner.kind === 'call' && CLOCK.has(inner.name) && clock === 'open') return false;
    return childrenOf(inner).every(closed);
  };
  return closed(node);
}

/** Whether a node reads the item of a loop that stands around it. */
function dependsOnItem(node: Node, checked: CheckedExpression): boolean {
  const bound = new Set<number>();
  const collect = (inner: Node): void => {
    if (inner.kind === 'filter') bound.add(checked.localIndexes.get(inner) as number);
    if (inner.kind === 'in') for (const test of inner.tests) bound.add(checked.localIndexes.get(test) as number);
    if (inner.kind === 'for' || inner.kind === 'quantified') {
      for (const binding of inner.bindings) bound.add(checked.localIndexes.get(binding) as number);
    }
    childrenOf(inner).forEach(collect);
  };
  collect(node);
  const reads = (inner: Node): boolean => {
    const reference = inner.kind === 'name' ? checked.references.get(inner) : undefined;
    if (reference && reference.kind !== 'slot' && !bound.has(reference.local)) return true;
    return childrenOf(inner).some(reads);
  };
  return reads(node);
}

const readsAnything = (node: Node, checked: CheckedExpression): boolean =>
  (node.kind === 'name' && checked.references.get(node)?.kind === 'slot') ||
  (node.kind === 'call' && CLOCK.has(node.name)) ||
  childrenOf(node).some((child) => readsAnything(child, checked));

/** Truths absorb: `false and x` is false, `true and x` is x. `x` is a condition, so unknown stays unknown. */
function simplify(node: Node, folded: Set<Node>): Node {
  if (node.kind === 'if' && node.test.kind === 'boolean') return node.test.value ? node.then : node.otherwise;
  if (node.kind === 'if' && node.test.kind === 'null') return node.otherwise;
  if (node.kind !== 'all' && node.kind !== 'any') return node;
  const decides = node.kind === 'any';
  const decided = node.of.find((part) => part.kind === 'boolean' && part.value === decides);
  if (decided) {
    folded.delete(decided);
    return decided;
  }
  const left = node.of.filter((part) => part.kind !== 'boolean');
  if (left.length === node.of.length) return node;
  if (left.length === 0) return { kind: 'boolean', value: !decides, span: node.span };
  return left.length === 1 ? (left[0] as Node) : { ...node, of: left };
}

/** A literal node for a value; null for values that have none (rows, ranges of rows). */
export function makeLiteral(value: Value): Node | null {
  const span = NOWHERE;
  if (value === null) return { kind: 'null', span };
  if (typeof value === 'boolean') return { kind: 'boolean', value, span };
  if (typeof value === 'string') return { kind: 'text', value, span };
  if (isList(value)) {
    const of = value.map(makeLiteral);
    return of.includes(null) ? null : { kind: 'list', of: of as readonly Node[], span };
  }
  switch (value.kind) {
    case 'number':
      return compareExact(value, ZERO) < 0
        ? { kind: 'negate', of: { kind: 'number', value: negateExact(value), span }, span }
        : { kind: 'number', value, span };
    case 'date':
      return { kind: 'temporal', text: writeDate(value), span };
    case 'time':
      return { kind: 'temporal', text: writeTime(value), span };
    case 'date-time':
      return { kind: 'temporal', text: writeZonedDateTime(value), span };
    case 'days-duration':
    case 'months-duration':
      return { kind: 'temporal', text: writeDuration(value), span };
    case 'range': {
      const [low, high] = [makeLiteral(value.low), makeLiteral(value.high)];
      return low && high
        ? { kind: 'range', low, high, includesLow: value.includesLow, includesHigh: value.includesHigh, span }
        : null;
    }
    case 'context':
      return null;
    default:
      return value satisfies never;
  }
}
