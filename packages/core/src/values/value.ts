import { compareExact, type Exact } from './exact.ts';
import type { DateTimeValue, DateValue, DaysDuration, MonthsDuration, TimeValue } from './temporal.ts';

/** Named values: a row of a table field (with its stable `id`), the record, the actor, a file. */
export type ContextValue = {
  readonly kind: 'context';
  readonly id: string | null;
  readonly entries: Readonly<Record<string, Value>>;
};

export type RangeValue = {
  readonly kind: 'range';
  readonly low: Value;
  readonly high: Value;
  readonly includesLow: boolean;
  readonly includesHigh: boolean;
};

/** What an expression can yield. Null is "no value" and, as a truth, "unknown". */
export type Value =
  | null
  | boolean
  | string
  | Exact
  | DateValue
  | TimeValue
  | DateTimeValue
  | DaysDuration
  | MonthsDuration
  | ContextValue
  | RangeValue
  | readonly Value[];

/** True, false, or null for unknown (DMN 1.3, 10.3.2.8 and table 50). */
export type Truth = boolean | null;

export const isList = (value: Value): value is readonly Value[] => Array.isArray(value);

export type ValueKind = 'null' | 'boolean' | 'text' | 'list' | Exclude<Extract<Value, { kind: string }>['kind'], never>;

export function kindOf(value: Value): ValueKind {
  if (value === null) return 'null';
  if (typeof value === 'boolean') return 'boolean';
  if (typeof value === 'string') return 'text';
  return isList(value) ? 'list' : value.kind;
}

/** Code point order. UTF-16 order differs from it only when a surrogate meets a unit above the surrogates. */
export function compareText(a: string, b: string): number {
  const length = Math.min(a.length, b.length);
  for (let index = 0; index < length; index++) {
    const [left, right] = [a.charCodeAt(index), b.charCodeAt(index)];
    if (left === right) continue;
    const surrogates = (left & 0xf800) === 0xd800 || (right & 0xf800) === 0xd800;
    return surrogates ? (a.codePointAt(index) as number) - (b.codePointAt(index) as number) : left - right;
  }
  return a.length - b.length;
}

const timeOrder = (value: TimeValue): number => value.ms - (value.offsetMs ?? 0);

/** Order of two values of one kind; null where FEEL defines none (other kinds, null, booleans, lists). */
export function compareValues(a: Value, b: Value): number | null {
  if (a === null || b === null) return null;
  if (typeof a === 'string') return typeof b === 'string' ? compareText(a, b) : null;
  if (typeof a === 'boolean' || typeof b === 'boolean' || typeof b === 'string' || isList(a) || isList(b)) return null;
  switch (a.kind) {
    case 'number':
      return b.kind === 'number' ? compareExact(a, b) : null;
    case 'date':
      return b.kind === 'date' ? a.day - b.day : null;
    case 'time':
      return b.kind === 'time' ? timeOrder(a) - timeOrder(b) : null;
    case 'date-time':
      return b.kind === 'date-time' ? a.ms - b.ms : null;
    case 'days-duration':
      return b.kind === 'days-duration' ? a.ms - b.ms : null;
    case 'months-duration':
      return b.kind === 'months-duration' ? a.months - b.months : null;
    case 'context':
    case 'range':
      return null;
    default:
      return a satisfies never;
  }
}

function equalLists(a: readonly Value[], b: readonly Value[]): Truth {
  if (a.length !== b.length) return false;
  let result: Truth = true;
  for (let index = 0; index < a.length; index++) {
    const equal = equalValues(a[index] as Value, b[index] as Value);
    if (equal === false) return false;
    if (equal === null) result = null;
  }
  return result;
}

function equalContexts(a: ContextValue, b: ContextValue): Truth {
  const keys = Object.keys(a.entries);
  if (keys.length !== Object.keys(b.entries).length || keys.some((key) => !Object.hasOwn(b.entries, key))) return false;
  return equalLists(
    keys.map((key) => a.entries[key] as Value),
    keys.map((key) => b.entries[key] as Value),
  );
}

/** Equality of DMN 1.3, table 53: null equals only null; two kinds compare to unknown. */
export function equalValues(a: Value, b: Value): Truth {
  if (a === null || b === null) return a === b;
  if (typeof a === 'string' || typeof a === 'boolean') return typeof a === typeof b ? a === b : null;
  if (typeof b === 'string' || typeof b === 'boolean') return null;
  if (isList(a) || isList(b)) return isList(a) && isList(b) ? equalLists(a, b) : null;
  if (a.kind === 'context') return b.kind === 'context' ? equalContexts(a, b) : null;
  if (a.kind === 'range') {
    if (b.kind !== 'range') return null;
    const ends = a.includesLow === b.includesLow && a.includesHigh === b.includesHigh;
    return ends ? equalLists([a.low, a.high], [b.low, b.high]) : false;
  }
  const order = compareValues(a, b);
  return order === null ? null : order === 0;
}

/** Three-valued `and`: false wins, then unknown (DMN 1.3, table 50). */
export const andTruth = (a: Value, b: Value): Truth =>
  a === false || b === false ? false : a === true && b === true ? true : null;

/** Three-valued `or`: true wins, then unknown (DMN 1.3, table 50). */
export const orTruth = (a: Value, b: Value): Truth =>
  a === true || b === true ? true : a === false && b === false ? false : null;

export const notTruth = (a: Value): Truth => (a === true ? false : a === false ? true : null);

/** Whether a value lies in a range: the conjunction of its two comparisons. An open end (null) holds always. */
export function inRange(value: Value, range: RangeValue): Truth {
  const low = compareEnd(value, range.low, (order) => (range.includesLow ? order >= 0 : order > 0));
  const high = compareEnd(value, range.high, (order) => (range.includesHigh ? order <= 0 : order < 0));
  return andTruth(low, high);
}

function compareEnd(value: Value, end: Value, holds: (order: number) => boolean): Truth {
  const order = compareValues(value, end);
  return order === null ? null : holds(order);
}
