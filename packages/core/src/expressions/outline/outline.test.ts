import { describe, expect, test } from '@jest/globals';
import { checked } from '@ypomet/testkit/evaluate';
import { describeComparison, describeOutline } from '../../messages/describe-outline.ts';
import type { Wording } from '../../messages/wording.ts';
import { formatValue } from '../../templates/format-value.ts';
import { writeText } from '../../values/text.ts';
import { parseExpression } from '../parse.ts';
import { printExpression } from '../print.ts';
import { makeScope } from '../scope.ts';
import type { Node } from '../tree.ts';
import { listOf, TYPES, type Type, typing } from '../types.ts';
import { COMPARISONS, comparisonsFor, OPERANDS, type OutlineClause, type OutlineItem } from './outline.ts';
import { readOutline, readOutlineGroup } from './read.ts';
import { writeOutline } from './write.ts';

const wording: Wording = {
  zone: 'UTC',
  nameOf: (path) =>
    ({ total: 'Total value', venue: 'Venue', objects: 'Objects', begins: 'Begins' })[path.join('.')] ?? path.join(' '),
  format: (value) => {
    if (typeof value === 'string') return value.toUpperCase();
    const isDays = typeof value === 'object' && value !== null && 'kind' in value && value.kind === 'days-duration';
    return isDays ? formatValue(value, null, { locale: 'en', zone: 'UTC' }) : (writeText(value) ?? '');
  },
  fieldAt: () => null,
  within: () => wording,
};

function parsed(text: string): Node {
  const result = parseExpression(text);
  if (!result.ok) throw new Error(text);
  return result.value;
}
const sentence = (text: string): string => describeOutline(readOutline(parsed(text)), wording);
const clauseOf = (text: string): OutlineClause => readOutline(parsed(text)) as OutlineClause;

describe('every comparison, read, said and written back', () => {
  test.each<[string, string, string]>([
    ['venue = "home"', 'is', 'Venue is HOME'],
    ['venue != "home"', 'is-not', 'Venue is not HOME'],
    ['venue != "home" and venue != null', 'is-other', 'Venue is filled and is not HOME'],
    ['fragile', 'holds', 'fragile is yes'],
    ['venue = null', 'is-empty', 'Venue is empty'],
    ['venue != null', 'is-filled', 'Venue is filled'],
    ['total > 50000', 'above', 'Total value is above 50000'],
    ['total >= 50000', 'at-least', 'Total value is at least 50000'],
    ['total < 0.5', 'below', 'Total value is below 0.5'],
    ['total <= limit', 'at-most', 'Total value is at most limit'],
    ['total between 1 and 5', 'between', 'Total value is between 1 and 5'],
    ['venue in ("home", "abroad")', 'one-of', 'Venue is one of HOME, ABROAD'],
    ['not(venue in ("home", "abroad"))', 'not-one-of', 'Venue is none of HOME, ABROAD'],
    ['list contains(materials, "glass")', 'includes', 'materials includes GLASS'],
    ['contains(borrower, "Gallery")', 'contains', 'borrower contains GALLERY'],
    ['starts with(borrower, "The")', 'starts-with', 'borrower starts with THE'],
    ['ends with(borrower, "Ltd")', 'ends-with', 'borrower ends with LTD'],
    ['matches(code, "^L-")', 'matches', 'code matches ^L-'],
    ['begins between today() - @"P30D" and today()', 'last-days', 'Begins is in the past 30 days'],
    ['begins between today() and today() + @"P7D"', 'next-days', 'Begins is in the coming 7 days'],
    ['begins < @"2027-01-01"', 'below', 'Begins is before 2027-01-01'],
    ['begins >= today()', 'at-least', 'Begins is on or after today'],
    ['begins > today() + @"P1M"', 'above', 'Begins is after P1M after today'],
    ['fragile = true', 'is', 'fragile is yes'],
    ['fragile = false', 'is', 'fragile is no'],
    ['count(objects) > 3', 'above', 'the number of rows of Objects is above 3'],
    ['count(objects[fragile = true]) >= 1', 'at-least', 'the number of rows of Objects where fragile is yes is at least 1'],
    ['sum(concatenate([0], objects.value[item != null])) > 100', 'above', 'the total of objects value is above 100'],
    ['count(objects) = 0', 'has-no-rows', 'Objects has no entries'],
    ['count(objects) > 0', 'has-rows', 'Objects has entries'],
    ['loan.venue = "home"', 'is', 'loan venue is HOME'],
  ])('%s', (text, comparison, said) => {
    const clause = clauseOf(text);
    expect([clause.kind, clause.comparison]).toEqual(['clause', comparison]);
    expect(sentence(text)).toBe(said);
    expect(printExpression(writeOutline(clause))).toBe(text);
    const operands = OPERANDS[clause.comparison];
    if (operands !== null) expect(clause.values).toHaveLength(operands);
  });

  test('there is a row above for every comparison', () => {
    expect(COMPARISONS).toHaveLength(22);
  });
});

describe('groups and rows', () => {
  test.each([
    ['a and b', 'a is yes and b is yes'],
    ['a or b', 'a is yes or b is yes'],
    ['(a or b) and c', '(a is yes or b is yes) and c is yes'],
    ['a or b and c', 'a is yes or (b is yes and c is yes)'],
    ['not(a or b)', 'none of: a is yes; b is yes'],
    ['not(a)', 'none of: a is yes'],
    ['some o in objects satisfies o.fragile', 'any row of Objects where o fragile is yes'],
    ['every o in objects satisfies o.value > 5', 'every row of Objects where o value is above 5'],
    ['some o in objects satisfies o.fragile and o.value > 5', 'any row of Objects where o fragile is yes and o value is above 5'],
    ['if a then b else c', 'b if a is yes, otherwise c'],
    ['a and upper case(x) = "X"', 'a is yes and upper case(x) is X'],
    ['(a or not(b)) and (c or (d and e))', '(a is yes or none of: b is yes) and (c is yes or (d is yes and e is yes))'],
  ])('%s', (text, said) => {
    expect(sentence(text)).toBe(said);
    expect(printExpression(writeOutline(readOutline(parsed(text))))).toBe(printExpression(parsed(text)));
  });

  test('an empty group of all holds, an empty one of any doesn’t, an empty one of none holds', () => {
    const empty = (which: 'all' | 'any' | 'none'): OutlineItem => ({ kind: 'group', which, of: [] });
    expect(['all', 'any', 'none'].map((which) => printExpression(writeOutline(empty(which as 'all'))))).toEqual([
      'true',
      'false',
      'true',
    ]);
    expect(['all', 'any'].map((which) => describeOutline(empty(which as 'all'), wording))).toEqual(['always', 'never']);
  });

  test('a group of one is its clause', () => {
    const clause = clauseOf('total > 1');
    expect(printExpression(writeOutline({ kind: 'group', which: 'any', of: [clause] }))).toBe('total > 1');
  });

  test('the top is always a group to add clauses to', () => {
    expect(readOutlineGroup(parsed('true'))).toEqual({ kind: 'group', which: 'all', of: [] });
    expect(readOutlineGroup(parsed('false'))).toEqual({ kind: 'group', which: 'any', of: [] });
    expect(readOutlineGroup(parsed('a')).of).toHaveLength(1);
    expect(readOutlineGroup(parsed('a or b'))).toMatchObject({ which: 'any' });
  });

  test.each([
    'total + 1 > 5',
    '1 < total',
    'venue in (< "b")',
    'begins between today() - @"P1M" and today()',
    'some a in x, b in y satisfies a = b',
    'sum(objects.value) > 1 + count(objects)',
    'contains(string: a, match: "b")',
  ])('what no clause can show stays whole: %s', (text) => {
    expect(printExpression(writeOutline(readOutline(parsed(text))))).toBe(printExpression(parsed(text)));
  });
});

describe('comparisons that fit each type', () => {
  const choice: Type = { kind: 'choice', options: [{ code: 'home', label: 'Home' }] };
  const range: Type = { kind: 'range', of: TYPES.number };

  test.each<[string, Type, string]>([
    ['number', TYPES.number, 'above'],
    ['text', TYPES.text, 'is'],
    ['boolean', TYPES.boolean, 'is'],
    ['date', TYPES.date, 'is'],
    ['choice', choice, 'is'],
    ['list', listOf(TYPES.text), 'includes'],
    ['range', range, 'is-empty'],
  ])('%s', (_, type, first) => {
    const fitting = comparisonsFor(type);
    expect(fitting[0]).toBe(first);
    expect(fitting).toContain('is-empty');
    expect(new Set(fitting).size).toBe(fitting.length);
  });

  /** A text of a comparison for a name `x` of a type, which must type without errors. */
  const sample: Readonly<Record<string, string>> = {
    number: '1',
    text: '"a"',
    boolean: 'true',
    date: '@"2027-01-01"',
    'date-time': 'date and time("2027-01-01T00:00:00Z")',
    time: '@"09:00:00"',
    'days-duration': '@"P1D"',
    'months-duration': '@"P1M"',
    choice: '"home"',
  };
  const types: readonly Type[] = [
    TYPES.number,
    TYPES.text,
    TYPES.boolean,
    TYPES.date,
    TYPES.time,
    TYPES.daysDuration,
    TYPES.monthsDuration,
    choice,
  ];

  test.each(types.flatMap((type) => comparisonsFor(type).map((comparison) => [type.kind, comparison, type] as const)))(
    'a clause “%s %s” types',
    (kind, comparison, type) => {
      const count = OPERANDS[comparison] ?? 2;
      const isDays = comparison === 'last-days' || comparison === 'next-days';
      const value = parsed(isDays ? '@"P3D"' : (sample[kind] ?? ''));
      const clause: OutlineClause = {
        kind: 'clause',
        subject: { kind: 'field', path: ['x'] },
        comparison,
        values: Array.from({ length: count }, () => value),
      };
      const text = printExpression(writeOutline(clause));
      expect(checked(text, makeScope({ x: typing(type, true) })).typing.type.kind).toBe('boolean');
      expect(clauseOf(text).comparison).toBe(comparison);
    },
  );

  test('dates come before and after, numbers below and above', () => {
    expect(describeComparison('below', TYPES.date)).toBe('is before');
    expect(describeComparison('at-least', TYPES.time)).toBe('is on or after');
    expect(describeComparison('below', TYPES.number)).toBe('is below');
    expect(describeComparison('is', null)).toBe('is');
  });
});
