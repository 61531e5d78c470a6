import {
  andTruth,
  compareValues,
  equalValues,
  inRange,
  notTruth,
  orTruth,
  type RangeValue,
  type Truth,
  type Value,
} from '../../values/value.ts';
import { TYPES, type Type } from '../types.ts';
import { type Builtin, parameter, type Signature } from './builtin.ts';

const CLAUSE = '10.3.4.9';
const { any, boolean } = TYPES;
const range: Type = { kind: 'range', of: any };

const isRange = (value: Value): value is RangeValue =>
  value !== null && typeof value === 'object' && !Array.isArray(value) && (value as RangeValue).kind === 'range';

const asRange = (value: Value): RangeValue =>
  isRange(value) ? value : { kind: 'range', low: value, high: value, includesLow: true, includesHigh: true };

const order = (a: Value, b: Value, holds: (order: number) => boolean): Truth => {
  const found = compareValues(a, b);
  return found === null ? null : holds(found);
};
const below = (a: Value, b: Value): Truth => order(a, b, (found) => found < 0);
const same = (a: Value, b: Value): Truth => order(a, b, (found) => found === 0);
const all = (...truths: Truth[]): Truth => truths.reduce<Truth>(andTruth, true);
const any2 = (...truths: Truth[]): Truth => truths.reduce<Truth>(orTruth, false);

/** Whether all of `a` lies below all of `b`. */
const isBefore = (a: RangeValue, b: RangeValue): Truth =>
  any2(below(a.high, b.low), andTruth(!a.includesHigh || !b.includesLow, same(a.high, b.low)));

const meets = (a: RangeValue, b: RangeValue): Truth => all(a.includesHigh, b.includesLow, same(a.high, b.low));

const lowNotBelow = (inner: RangeValue, outer: RangeValue): Truth =>
  any2(below(outer.low, inner.low), andTruth(same(outer.low, inner.low), outer.includesLow || !inner.includesLow));
const highNotAbove = (inner: RangeValue, outer: RangeValue): Truth =>
  any2(below(inner.high, outer.high), andTruth(same(inner.high, outer.high), outer.includesHigh || !inner.includesHigh));

const includes = (outer: RangeValue, inner: RangeValue): Truth => andTruth(lowNotBelow(inner, outer), highNotAbove(inner, outer));
const starts = (a: RangeValue, b: RangeValue): Truth =>
  all(same(a.low, b.low), a.includesLow === b.includesLow, highNotAbove(a, b));
const finishes = (a: RangeValue, b: RangeValue): Truth =>
  all(same(a.high, b.high), a.includesHigh === b.includesHigh, lowNotBelow(a, b));

const overlaps = (a: RangeValue, b: RangeValue): Truth => andTruth(notTruth(isBefore(a, b)), notTruth(isBefore(b, a)));
/** DMN 1.3: the first range starts earlier, and they share points at the second's start. */
const overlapsBefore = (a: RangeValue, b: RangeValue): Truth =>
  all(any2(below(a.low, b.low), all(same(a.low, b.low), a.includesLow, !b.includesLow)), overlaps(a, b), highNotAbove(a, b));

const signatures = (pairs: readonly (readonly [Type, Type])[]): readonly Signature[] =>
  pairs.map(([a, b]) => ({
    parameters: [parameter(a === range ? 'range1' : 'point1', a), parameter(b === range ? 'range2' : 'point2', b)],
    result: boolean,
  }));

const RANGES = signatures([[range, range]]);
const POINT_OR_RANGE = signatures([
  [range, range],
  [any, range],
]);

const relation = (name: string, forms: readonly Signature[], call: (a: RangeValue, b: RangeValue) => Truth): Builtin => ({
  name,
  clause: CLAUSE,
  partial: true,
  signatures: forms,
  call: ([a, b]) => call(asRange(a as Value), asRange(b as Value)),
});

const flip =
  (call: (a: RangeValue, b: RangeValue) => Truth) =>
  (a: RangeValue, b: RangeValue): Truth =>
    call(b, a);

const ANY_PAIR = signatures([
  [range, range],
  [any, range],
  [range, any],
  [any, any],
]);
const RANGE_FIRST = signatures([
  [range, range],
  [range, any],
]);

/** A point lies in a range, or a range within another. */
const contains = (outer: RangeValue, inner: RangeValue, point: Value | null): Truth =>
  point === null ? includes(outer, inner) : inRange(point, outer);

export const rangeBuiltins: readonly Builtin[] = [
  relation('before', ANY_PAIR, isBefore),
  relation('after', ANY_PAIR, flip(isBefore)),
  relation('meets', RANGES, meets),
  relation('met by', RANGES, flip(meets)),
  relation('overlaps', RANGES, overlaps),
  relation('overlaps before', RANGES, overlapsBefore),
  relation('overlaps after', RANGES, (a, b) =>
    all(
      overlaps(a, b),
      any2(below(b.high, a.high), all(same(a.high, b.high), a.includesHigh, !b.includesHigh)),
      lowNotBelow(a, b),
    ),
  ),
  relation('finishes', POINT_OR_RANGE, finishes),
  relation('finished by', RANGE_FIRST, flip(finishes)),
  {
    name: 'includes',
    clause: CLAUSE,
    partial: true,
    signatures: RANGE_FIRST,
    call: ([a, b]) => contains(asRange(a as Value), asRange(b as Value), isRange(b as Value) ? null : (b as Value)),
  },
  {
    name: 'during',
    clause: CLAUSE,
    partial: true,
    signatures: POINT_OR_RANGE,
    call: ([a, b]) => contains(asRange(b as Value), asRange(a as Value), isRange(a as Value) ? null : (a as Value)),
  },
  relation('starts', POINT_OR_RANGE, starts),
  relation('started by', RANGE_FIRST, flip(starts)),
  relation(
    'coincides',
    signatures([
      [range, range],
      [any, any],
    ]),
    (a, b) =>
      all(
        equalValues(a.low, b.low),
        equalValues(a.high, b.high),
        a.includesLow === b.includesLow,
        a.includesHigh === b.includesHigh,
      ),
  ),
];
