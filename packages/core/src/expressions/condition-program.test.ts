import { describe, expect, test } from '@jest/globals';
import { checked, holds, type Names, namesOf } from '@ypomet/testkit/evaluate';
import { readExact } from '../values/exact.ts';
import type { Value } from '../values/value.ts';
import { compileCondition, compileExpression } from './compile.ts';
import { TYPES, typing } from './types.ts';

const number = (text: string | null): Value => (text === null ? null : readExact(text));

/** What is asked of a condition, and of its opposite, is what its value is. */
function expectAsked(text: string, names: Names): void {
  const { scope, frame } = namesOf(names);
  const value = compileExpression(checked(text, scope))(frame);
  const asked = [text, `not(${text})`].map((one) => holds(checked(one, scope), frame));
  expect({ text, names, asked }).toEqual({ text, names, asked: [value === true, value === false] });
}

const OPERATORS = ['=', '!=', '<', '<=', '>', '>='];
// Of few and many places, beyond what is kept as a small integer, beyond what a double holds, and nothing.
const NUMBERS = ['0', '-1', '12.5', '12.50', '12.5000000', '0.1', '1e-9', '2147483648', '9007199254740993', '1e30', null];
const LITERALS = ['0', '-1', '12.5', '12.500', '0.1', '0.000000001', '2147483648', '9007199254740993', '1e30'];

describe('a number beside a literal', () => {
  test.each(OPERATORS.flatMap((operator) => LITERALS.map((literal) => [operator, literal])))('%s %s', (operator, literal) => {
    for (const own of NUMBERS) {
      const names = { n: { typing: typing(TYPES.number, true), value: number(own) } };
      expectAsked(`n ${operator} ${literal}`, names);
      expectAsked(`${literal} ${operator} n`, names);
    }
  });

  test.each([
    'n between 1 and 12.5',
    'n between 12.5 and 1',
    'n in (1, 12.5)',
    'n in [0, 12.5]',
    'n in (> 1)',
    'n in (1, n + 0, 12.5)',
    'n in (12.5, null)',
    'n in [1, null]',
    'n in ([1..12.5))',
  ])('%s', (text) => {
    for (const own of NUMBERS) expectAsked(text, { n: { typing: typing(TYPES.number, true), value: number(own) } });
  });
});

describe('texts and truths', () => {
  const names = (text: string | null, flag: boolean | null): Names => ({
    t: { typing: typing(TYPES.text, true), value: text },
    f: { typing: typing(TYPES.boolean, true), value: flag },
  });

  test.each([
    't = "a"',
    '"a" = t',
    't != "a"',
    't < "b"',
    't in ("a", "b")',
    't in ["a", "b"]',
    't = null',
    'f',
    'not(f)',
    'f = true',
    'if f then t = "a" else t = "b"',
    'if t = "a" then true else false',
    'if t = "a" then null else f',
    'f and t = "a" or t = "b" and not(f)',
    'not(f or t = "a") and not(f and t = "b")',
    'upper case(t) = "A"',
    'some x in ["a", "b"] satisfies x = t',
  ])('%s', (text) => {
    for (const own of ['a', 'b', 'c', null]) for (const flag of [true, false, null]) expectAsked(text, names(own, flag));
  });
});

test('plain tests, groups and negations need no closure', () => {
  const { scope } = namesOf({
    n: { typing: typing(TYPES.number, true), value: null },
    t: { typing: typing(TYPES.text, true), value: null },
    f: { typing: typing(TYPES.boolean, true), value: null },
  });
  const { constants } = compileCondition(checked('(n > 1 or n <= -2.5 or not(f)) and t in ("a", "b") and not(n = 7)', scope));
  expect(constants).toEqual(['b', 'a']);
});
