import type { Span } from '../shared/diagnostic.ts';
import { ARITHMETIC } from '../values/arithmetic.ts';
import { exactInteger, findInteger } from '../values/exact.ts';
import { readDate, readDateTime, readDuration, readTime } from '../values/temporal.ts';
import {
  compareValues,
  equalValues,
  inRange,
  isList,
  notTruth,
  orTruth,
  type RangeValue,
  type Truth,
  type Value,
} from '../values/value.ts';
import type { Builtin, Environment, Signature } from './builtins/builtin.ts';
import { readProperty } from './builtins/temporal.ts';
import type { CheckedExpression } from './check.ts';
import { argumentOrder } from './check-call.ts';
import { type Frame, takeSteps } from './frame.ts';
import { type ComparisonOperator, childrenOf, LIMITS, MAX_TEXT_VALUE, type Node, TESTED, type UnaryTest } from './tree.ts';

/** The comparisons of DMN 1.3, tables 53 and 54, on any two values. */
export function compareWith(operator: ComparisonOperator, a: Value, b: Value): Truth {
  if (operator === '=') return equalValues(a, b);
  if (operator === '!=') return notTruth(equalValues(a, b));
  const order = compareValues(a, b);
  if (order === null) return null;
  switch (operator) {
    case '<':
      return order < 0;
    case '<=':
      return order <= 0;
    case '>':
      return order > 0;
    case '>=':
      return order >= 0;
    default:
      return operator satisfies never;
  }
}

/** One bare unary test: membership of a list (whose items may be ranges) or range, else equality. */
export function matchesTest(value: Value, tested: Value): Truth {
  if (isRange(tested)) return inRange(value, tested);
  if (!isList(tested) || isList(value)) return equalValues(value, tested);
  let result: Truth = false;
  for (const item of tested) {
    result = orTruth(result, isRange(item) ? inRange(value, item) : equalValues(value, item));
    if (result === true) return true;
  }
  return result;
}

export const isRange = (value: Value): value is RangeValue =>
  value !== null && typeof value === 'object' && !isList(value) && value.kind === 'range';

/** `value.name`: an entry, a property of a temporal value, or either of each item of a list. */
export function readPath(value: Value, name: string): Value {
  if (value === null || typeof value !== 'object') return null;
  if (isList(value)) return value.map((item) => readPath(item, name));
  if (value.kind === 'context') return Object.hasOwn(value.entries, name) ? (value.entries[name] as Value) : null;
  return readProperty(value, name) ?? null;
}

/** The items a loop runs over: a list, or the whole numbers or days of a range, in its direction. */
export function loopItems(source: Value, frame: Frame, span: Span): readonly Value[] | null {
  if (isList(source)) return source;
  if (!isRange(source)) return null;
  const { low, high } = source;
  if (low === null || high === null || typeof low !== 'object' || typeof high !== 'object' || isList(low) || isList(high))
    return null;
  if (low.kind === 'number' && high.kind === 'number') {
    const [from, to] = [findInteger(low), findInteger(high)];
    return from === null || to === null ? null : steps(from, to, frame, span, exactInteger);
  }
  return low.kind === 'date' && high.kind === 'date'
    ? steps(low.day, high.day, frame, span, (day) => ({ kind: 'date', day }))
    : null;
}

function steps(from: number, to: number, frame: Frame, span: Span, make: (value: number) => Value): readonly Value[] | null {
  const count = Math.abs(to - from) + 1;
  if (count > LIMITS.listLength) return null;
  takeSteps(frame, count, span);
  const direction = to >= from ? 1 : -1;
  return Array.from({ length: count }, (_, index) => make(from + index * direction));
}

/** `list[n]`: 1 is the first, -1 the last; null beyond. */
export function readIndex(list: readonly Value[], index: Value): Value {
  const position =
    index !== null && typeof index === 'object' && !isList(index) && index.kind === 'number' ? findInteger(index) : null;
  if (position === null || position === 0) return null;
  return list[position > 0 ? position - 1 : list.length + position] ?? null;
}

/**
 * How much of an expression is evaluated at once: its parts, those within its own loops once. Arithmetic weighs more: with 34
 * digits a multiplication takes as long as a hundred comparisons (measured), with few digits as long as one.
 */
export const weightOf = (node: Node): number =>
  childrenOf(node).reduce((sum, child) => sum + weightOf(child), node.kind === 'arithmetic' ? WEIGHTS[node.operator] : 1);
const WEIGHTS: Readonly<Record<Extract<Node, { kind: 'arithmetic' }>['operator'], number>> = {
  '+': 10,
  '-': 10,
  '*': 30,
  '/': 60,
  '**': 60,
};

/** Whether a test reads the value tested by its name. */
export function readsTested(test: UnaryTest): boolean {
  const reads = (node: Node): boolean => (node.kind === 'name' && node.name === TESTED) || childrenOf(node).some(reads);
  return reads(test.kind === 'compares' ? test.to : test.node);
}

/** Calls a built-in with arguments in the order written: named ones are put in place, repeated ones gathered. */
export function callBuiltin(
  builtin: Builtin,
  signature: Signature,
  names: readonly string[] | null,
  given: readonly Value[],
  frame: Frame,
  span: Span,
): Value {
  let cost = 0;
  for (const value of given) cost += costOf(value);
  const { steps = 1, stepsPerItem = 1 } = builtin;
  takeSteps(frame, (typeof steps === 'number' ? steps : steps(given)) + cost * stepsPerItem, span);
  if (!builtin.takesNull && given.includes(null)) return null;
  return bounded(builtin.call(arrange(signature, names, given), frame.environment));
}

/**
 * What reading a value whole costs: items of lists, those within them too, and texts by their length. Beyond the limit it
 * isn't counted on.
 */
function costOf(value: Value, before = 0): number {
  if (typeof value === 'string') return value.length >> 2;
  if (!isList(value)) return 0;
  let cost = value.length;
  for (const item of value) {
    if (before + cost > LIMITS.steps) return cost;
    if (typeof item === 'string') cost += item.length >> 2;
    else if (item !== null && typeof item === 'object') cost += isList(item) ? costOf(item, before + cost) : 1;
  }
  return cost;
}

/** Counts what comparing two values costs, where one is a list. */
export function meterComparison(a: Value, b: Value, frame: Frame, span: Span): void {
  if (isList(a) || isList(b))
    takeSteps(frame, isList(a) && isList(b) ? Math.min(costOf(a), costOf(b)) : costOf(a) + costOf(b), span);
}

/** Counts the items of a list that is made, or whose parts are read; anything else costs nothing more. */
export function meterItems(value: Value, frame: Frame, span: Span): Value {
  if (isList(value)) takeSteps(frame, value.length, span);
  return value;
}

/** Steps that a power takes: some for each multiplication with a small whole exponent, thousands with any other. */
const SMALL_POWER = 20;
const MULTIPLICATION = 20;
const ANY_POWER = 4000;

/** A power, which takes far longer than any other operation on numbers. */
export function raise(base: Value, exponent: Value, frame: Frame, span: Span): Value {
  const whole =
    exponent !== null && typeof exponent === 'object' && !isList(exponent) && exponent.kind === 'number'
      ? findInteger(exponent)
      : null;
  takeSteps(frame, whole !== null && Math.abs(whole) <= SMALL_POWER ? Math.abs(whole) * MULTIPLICATION : ANY_POWER, span);
  return bounded(ARITHMETIC['**'](base, exponent));
}

/** Whether evaluating a node can count steps, so that it must be done within the limit. */
export function isMetered(node: Node, checked: CheckedExpression): boolean {
  const isMany = (one: Node): boolean => MANY.has(checked.typings.get(one)?.type.kind ?? 'any');
  switch (node.kind) {
    case 'quantified':
    case 'for':
    case 'filter':
      return true;
    case 'call':
      // `not` of a condition looks at one truth.
      if (node.name !== 'not') return true;
      break;
    case 'arithmetic':
      if (node.operator === '**') return true;
      break;
    case 'compare':
      if (isMany(node.left) || isMany(node.right)) return true;
      break;
    case 'path':
      if (isMany(node.of)) return true;
      break;
    case 'in':
      if (isMany(node.value)) return true;
      return node.tests.some((test) => {
        const tested = test.kind === 'compares' ? test.to : test.node;
        return !isLiteralList(tested) && (isMany(tested) || isMetered(tested, checked));
      });
    case 'list':
      if (node.of.some(isMany)) return true;
      break;
    default:
  }
  return childrenOf(node).some((child) => isMetered(child, checked));
}

/** `["a", "b"]`: as many as are written out, each compared once. */
const isLiteralList = (node: Node): boolean =>
  node.kind === 'list' && node.of.every(({ kind }) => kind === 'text' || kind === 'number');

/** Types whose values can hold many others. */
const MANY: ReadonlySet<string> = new Set(['list', 'any']);

function arrange(signature: Signature, names: readonly string[] | null, given: readonly Value[]): readonly Value[] {
  if (signature.variadic) {
    const fixed = signature.parameters.length - 1;
    return [...given.slice(0, fixed), given.slice(fixed)];
  }
  if (!names) return given;
  const order = argumentOrder(signature, names, given.length) ?? [];
  return order.map((index) => (index < 0 ? undefined : given[index])) as readonly Value[];
}

/** No text or list longer than the limits comes out of a call or an operator. */
export function bounded(value: Value): Value {
  if (isList(value)) return value.length > LIMITS.listLength ? null : value;
  return typeof value === 'string' && value.length > MAX_TEXT_VALUE ? null : value;
}

/** The value of `@"…"`; wall-clock times are read in the workspace's zone. */
export const readTemporalLiteral = (text: string, { zone }: Pick<Environment, 'zone'>): Value =>
  readDate(text) ?? readTime(text) ?? readDuration(text) ?? readDateTime(text, zone);
