import {
  addExact,
  compareExact,
  divideExact,
  type Exact,
  exactInteger,
  findInteger,
  multiplyExact,
  negateExact,
  powerExact,
  roundExact,
  subtractExact,
  ZERO,
} from './exact.ts';
import {
  addMonths,
  addMonthsToDateTime,
  DAY_MS,
  daysDuration,
  makeDate,
  makeDateTime,
  makeTime,
  monthsDuration,
} from './temporal.ts';
import { isList, type Value } from './value.ts';

type Tagged = Extract<Value, { kind: string }>;
const tagged = (value: Value): Tagged | null => (value !== null && typeof value === 'object' && !isList(value) ? value : null);

const wrapTime = (ms: number): number => ((ms % DAY_MS) + DAY_MS) % DAY_MS;

/** `temporal + duration` and `duration + duration`, by DMN 1.3 table 57; null for any other pair. */
function addTemporal(a: Tagged, b: Tagged, sign: 1 | -1): Value {
  if (b.kind === 'days-duration') {
    const ms = sign * b.ms;
    if (a.kind === 'date') return makeDate(Math.floor((a.day * DAY_MS + ms) / DAY_MS));
    if (a.kind === 'date-time') return makeDateTime(a.ms + ms, a.zone);
    if (a.kind === 'time') return makeTime(wrapTime(a.ms + ms), a.offsetMs);
    if (a.kind === 'days-duration') return daysDuration(a.ms + ms);
  }
  if (b.kind === 'months-duration') {
    const months = sign * b.months;
    if (a.kind === 'date') return addMonths(a, months);
    if (a.kind === 'date-time') return addMonthsToDateTime(a, months);
    if (a.kind === 'months-duration') return monthsDuration(a.months + months);
  }
  return null;
}

/** FEEL addition: numbers, texts, temporal values with durations. Null for null or an undefined pair. */
export function addValues(a: Value, b: Value): Value {
  if (typeof a === 'string') return typeof b === 'string' ? a + b : null;
  const [left, right] = [tagged(a), tagged(b)];
  if (!left || !right) return null;
  if (left.kind === 'number') return right.kind === 'number' ? addExact(left, right) : null;
  return addTemporal(left, right, 1) ?? addTemporal(right, left, 1);
}

export function subtractValues(a: Value, b: Value): Value {
  const [left, right] = [tagged(a), tagged(b)];
  if (!left || !right) return null;
  if (left.kind === 'number') return right.kind === 'number' ? subtractExact(left, right) : null;
  if (left.kind === 'date' && right.kind === 'date') return daysDuration((left.day - right.day) * DAY_MS);
  if (left.kind === 'date-time' && right.kind === 'date-time') return daysDuration(left.ms - right.ms);
  if (left.kind === 'time' && right.kind === 'time') {
    return daysDuration(left.ms - (left.offsetMs ?? 0) - (right.ms - (right.offsetMs ?? 0)));
  }
  return addTemporal(left, right, -1);
}

/** A duration times or over a number, cut to whole milliseconds or months towards zero. */
function scaleDuration(duration: Tagged, factor: (amount: Exact) => Exact | null): Value {
  const amount = duration.kind === 'days-duration' ? duration.ms : duration.kind === 'months-duration' ? duration.months : null;
  if (amount === null) return null;
  const scaled = factor(exactInteger(amount));
  const whole = scaled && roundExact(scaled, 0, 'down');
  const integer = whole && findInteger(whole);
  if (integer === null) return null;
  return duration.kind === 'days-duration' ? daysDuration(integer) : monthsDuration(integer);
}

export function multiplyValues(a: Value, b: Value): Value {
  const [left, right] = [tagged(a), tagged(b)];
  if (!left || !right) return null;
  if (left.kind === 'number' && right.kind === 'number') return multiplyExact(left, right);
  if (right.kind === 'number') return scaleDuration(left, (amount) => multiplyExact(amount, right));
  return left.kind === 'number' ? scaleDuration(right, (amount) => multiplyExact(amount, left)) : null;
}

export function divideValues(a: Value, b: Value): Value {
  const [left, right] = [tagged(a), tagged(b)];
  if (!left || !right) return null;
  if (left.kind === 'number') return right.kind === 'number' ? divideExact(left, right) : null;
  if (right.kind === 'number') return scaleDuration(left, (amount) => divideExact(amount, right));
  if (left.kind === 'days-duration' && right.kind === 'days-duration') {
    return divideExact(exactInteger(left.ms), exactInteger(right.ms));
  }
  if (left.kind === 'months-duration' && right.kind === 'months-duration') {
    return divideExact(exactInteger(left.months), exactInteger(right.months));
  }
  return null;
}

export function powerValues(a: Value, b: Value): Value {
  const [left, right] = [tagged(a), tagged(b)];
  return left?.kind === 'number' && right?.kind === 'number' ? powerExact(left, right) : null;
}

export function negateValue(value: Value): Value {
  const only = tagged(value);
  if (only?.kind === 'number') return negateExact(only);
  if (only?.kind === 'days-duration') return daysDuration(-only.ms);
  return only?.kind === 'months-duration' ? monthsDuration(-only.months) : null;
}

export const ARITHMETIC = {
  '+': addValues,
  '-': subtractValues,
  '*': multiplyValues,
  '/': divideValues,
  '**': powerValues,
} as const;

/** The numbers of a list, or null when an item is none. */
export function findNumbers(list: readonly Value[]): readonly Exact[] | null {
  const numbers: Exact[] = [];
  for (const item of list) {
    const number = tagged(item);
    if (number?.kind !== 'number') return null;
    numbers.push(number);
  }
  return numbers;
}

/** The exact sum; null on overflow of decimal128. */
export function sumExact(numbers: readonly Exact[]): Exact | null {
  let total: Exact | null = ZERO;
  for (const number of numbers) total = total && addExact(total, number);
  return total;
}

export const halfOf = (value: Exact): Exact | null => divideExact(value, exactInteger(2));
export const sortExact = (numbers: readonly Exact[]): readonly Exact[] => [...numbers].sort(compareExact);
