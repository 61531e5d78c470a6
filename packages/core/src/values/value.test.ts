import { describe, expect, test } from '@jest/globals';
import { exactInteger } from './exact.ts';
import {
  andTruth,
  compareText,
  compareValues,
  equalValues,
  inRange,
  notTruth,
  orTruth,
  type Truth,
  type Value,
} from './value.ts';

// DMN 1.3, table 50: the semantics of conjunction and disjunction.
const TRUTHS: readonly Truth[] = [true, false, null];
const AND: readonly (readonly Truth[])[] = [
  [true, false, null],
  [false, false, false],
  [null, false, null],
];
const OR: readonly (readonly Truth[])[] = [
  [true, true, true],
  [true, false, null],
  [true, null, null],
];

describe('three-valued truth (DMN 1.3, table 50)', () => {
  TRUTHS.forEach((a, row) => {
    TRUTHS.forEach((b, column) => {
      test(`${a} and ${b}, ${a} or ${b}`, () => {
        expect(andTruth(a, b)).toBe(AND[row]?.[column]);
        expect(orTruth(a, b)).toBe(OR[row]?.[column]);
      });
    });
  });

  test('not leaves unknown unknown', () => {
    expect([true, false, null].map(notTruth)).toEqual([false, true, null]);
  });
});

describe('equality (DMN 1.3, table 53)', () => {
  const one = exactInteger(1);
  test.each<[string, Value, Value, Truth]>([
    ['null equals only null', null, null, true],
    ['null and a value', null, 'a', false],
    ['a value and null', one, null, false],
    ['texts', 'a', 'a', true],
    ['other kinds are unknown', 'a', one, null],
    ['booleans and texts', true, 'true', null],
    ['lists of one length', [one, 'a'], [one, 'a'], true],
    ['lists of two lengths', [one], [one, one], false],
    ['an unequal item decides', [one, 'a'], ['x', 'b'], false],
    ['dates', { kind: 'date', day: 1 }, { kind: 'date', day: 1 }, true],
    ['a date and a time', { kind: 'date', day: 1 }, { kind: 'time', ms: 1, offsetMs: null }, null],
    [
      'contexts by their entries',
      { kind: 'context', id: 'x', entries: { a: one } },
      { kind: 'context', id: 'y', entries: { a: one } },
      true,
    ],
    [
      'contexts with other keys',
      { kind: 'context', id: null, entries: { a: one } },
      { kind: 'context', id: null, entries: { b: one } },
      false,
    ],
    ['times by their instant', { kind: 'time', ms: 3_600_000, offsetMs: 3_600_000 }, { kind: 'time', ms: 0, offsetMs: 0 }, true],
  ])('%s', (_name, a, b, expected) => {
    expect(equalValues(a, b)).toBe(expected);
    expect(equalValues(b, a)).toBe(expected);
  });
});

describe('order', () => {
  test('is unknown for null, other kinds, booleans and lists', () => {
    expect(compareValues(null, 'a')).toBeNull();
    expect(compareValues('a', exactInteger(1))).toBeNull();
    expect(compareValues(true, false)).toBeNull();
    expect(compareValues(['a'], ['b'])).toBeNull();
  });

  test('of text is by code point, not by UTF-16 unit', () => {
    const [emoji, halfwidth] = ['\u{1f600}', '\uffee'];
    expect(emoji < halfwidth).toBe(true);
    expect(compareText(emoji, halfwidth)).toBeGreaterThan(0);
    expect(compareText('Z', 'a')).toBeLessThan(0);
    expect(compareText('a', 'ab')).toBeLessThan(0);
  });

  test('in a range is the conjunction of two comparisons', () => {
    const range = { kind: 'range', low: exactInteger(1), high: null, includesLow: true, includesHigh: false } as const;
    expect(inRange(exactInteger(0), range)).toBe(false);
    expect(inRange(exactInteger(1), range)).toBeNull();
    expect(inRange(null, range)).toBeNull();
  });
});
