import { describe, expect, test } from '@jest/globals';
import { checked, ENVIRONMENT } from '@ypomet/testkit/evaluate';
import { TYPINGS } from '@ypomet/testkit/generators';
import { exactInteger, readExact } from '../values/exact.ts';
import { readDate, readDateTime, readDuration, readTime } from '../values/temporal.ts';
import type { Value } from '../values/value.ts';
import { makeFrame } from './frame.ts';
import { parseExpression } from './parse.ts';
import { printExpression } from './print.ts';
import { makeScope } from './scope.ts';
import { makeLiteral, specialiseExpression } from './specialise.ts';

const scope = makeScope(TYPINGS);
const row = (size: number, good: boolean | null): Value => ({
  kind: 'context',
  id: null,
  entries: { size: exactInteger(size), colour: 'red', good },
});
/** amount 12.50, count1 3, flag true, shade green, label null, day 2026-11-25, two rows. */
const slots: readonly Value[] = [
  readExact('12.50'),
  exactInteger(3),
  true,
  'green',
  null,
  readDate('2026-11-25'),
  [row(3, true), row(5, null)],
];

/** What is left when these names are known, and whether it gives a known value away. */
function left(text: string, ...known: readonly string[]): readonly [string, boolean] {
  const { node, reveals } = specialiseExpression(
    checked(text, scope),
    (name) => known.includes(name),
    makeFrame(slots, ENVIRONMENT),
  );
  return [printExpression(node), reveals];
}

describe('what is left of a condition when some of it is known', () => {
  test.each<[string, readonly string[], string, boolean]>([
    ['amount > 10', [], 'amount > 10', false],
    ['amount > 10', ['amount'], 'true', false],
    ['amount > 20', ['amount'], 'false', false],
    ['label = "x"', ['label'], 'false', false],
    ['label < "x"', ['label'], 'null', false],
    ['amount > count1', ['count1'], 'amount > 3', true],
    ['amount > count1', ['amount', 'count1'], 'true', false],
    ['amount > 20 and flag', ['amount'], 'false', false],
    ['amount > 10 and flag', ['amount'], 'flag', false],
    ['amount > 10 or flag', ['amount'], 'true', false],
    ['amount > 20 or flag', ['amount'], 'flag', false],
    ['amount > 20 or flag or count1 = 3', ['amount'], 'flag or count1 = 3', false],
    ['not(amount > 20)', ['amount'], 'true', false],
    ['if amount > 10 then flag else count1 = 3', ['amount'], 'flag', false],
    ['if amount > 20 then flag else count1 = 3', ['amount'], 'count1 = 3', false],
    ['if label < "x" then flag else count1 = 3', ['label'], 'count1 = 3', false],
    ['(label < "x") and flag', ['label'], 'null and flag', true],
    ['count(rows) > 1', ['rows'], 'true', false],
    ['count(rows[good]) = 1 and flag', ['rows'], 'flag', false],
    ['some r in rows satisfies r.size > amount', ['rows', 'amount'], 'false', false],
    ['some r in rows satisfies r.size > amount', ['amount'], 'some r in rows satisfies r.size > amount', true],
    ['count(rows[size > amount]) = 0', ['amount'], 'count(rows[size > amount]) = 0', true],
    ['day < today()', ['day'], '@"2026-11-25" < today()', true],
    ['2 + 3 > amount', [], '2 + 3 > amount', false],
    ['amount between count1 and 20', ['count1'], 'amount between 3 and 20', true],
    ['shade in ("red", "green") and flag', ['shade'], 'flag', false],
  ])('%s, knowing %j', (text, known, expected, reveals) => {
    expect(left(text, ...known)).toEqual([expected, reveals]);
  });

  test('rows that no literal can write stay a name, and that says so', () => {
    expect(left('some r in rows satisfies r.size > count1', 'rows')).toEqual(['some r in rows satisfies r.size > count1', true]);
  });

  test('the clock is known only when it is said to be', () => {
    const expression = checked('day <= today()', scope);
    const frame = makeFrame(slots, ENVIRONMENT);
    expect(printExpression(specialiseExpression(expression, () => true, frame, 'known').node)).toBe('true');
    expect(printExpression(specialiseExpression(expression, () => true, frame).node)).toBe('@"2026-11-25" <= today()');
  });
});

describe('literals of values', () => {
  test.each<[string, Value]>([
    ['null', null],
    ['true', true],
    ['"a\\"b"', 'a"b'],
    ['1.25', readExact('1.25')],
    ['-3', exactInteger(-3)],
    ['[1, "a", null]', [exactInteger(1), 'a', null]],
    ['@"2024-02-29"', readDate('2024-02-29')],
    ['@"09:30:00"', readTime('09:30')],
    ['@"P1DT2H"', readDuration('P1DT2H')],
    ['@"P1Y2M"', readDuration('P1Y2M')],
    ['@"2027-07-12T10:00:00Z"', readDateTime('2027-07-12T10:00:00Z', 'UTC')],
    ['(1..5]', { kind: 'range', low: exactInteger(1), high: exactInteger(5), includesLow: false, includesHigh: true }],
  ])('%s', (text, value) => {
    const node = makeLiteral(value);
    expect(node && printExpression(node)).toBe(text);
    expect(parseExpression(text).ok).toBe(true);
  });

  test('rows, and what holds one, have none', () => {
    expect(makeLiteral(row(1, true))).toBeNull();
    expect(makeLiteral([row(1, true)])).toBeNull();
  });
});
