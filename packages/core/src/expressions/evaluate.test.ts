import { describe, expect, test } from '@jest/globals';
import { checked, ENVIRONMENT, evaluated, faults, holds, namesOf, show } from '@ypomet/testkit/evaluate';
import { conditionNode, namedValues, TYPINGS } from '@ypomet/testkit/generators';
import fc from 'fast-check';
import { exactInteger, writeExact } from '../values/exact.ts';
import { checkExpression } from './check.ts';
import { compileExpression } from './compile.ts';
import { explainExpression } from './explain.ts';
import { makeFrame } from './frame.ts';
import { readOutline } from './outline/read.ts';
import { writeOutline } from './outline/write.ts';
import { parseExpression } from './parse.ts';
import { printExpression } from './print.ts';
import { referencesOf } from './rewrite.ts';
import { makeScope } from './scope.ts';
import { specialiseExpression } from './specialise.ts';
import type { Node } from './tree.ts';
import { TYPES, typing } from './types.ts';

const scope = makeScope(TYPINGS);

// OMG DMN 1.3, clause 10.3.4: the examples of the built-in functions' tables, from memory.
describe('built-ins (DMN 1.3, 10.3.4)', () => {
  test.each([
    ['substring("foobar", 3)', '"obar"'],
    ['substring("foobar", 3, 3)', '"oba"'],
    ['substring("foobar", -2, 1)', '"a"'],
    ['string length("foo")', '3'],
    ['string length("\u{1f600}b")', '2'],
    ['upper case("aBc4")', '"ABC4"'],
    ['lower case("aBc4")', '"abc4"'],
    ['substring before("foobar", "bar")', '"foo"'],
    ['substring before("foobar", "xyz")', '""'],
    ['substring after("foobar", "ob")', '"ar"'],
    ['replace("abcd", "(ab)|(a)", "[$1]")', '"[ab]cd"'],
    ['contains("foobar", "of")', 'false'],
    ['starts with("foobar", "fo")', 'true'],
    ['ends with("foobar", "r")', 'true'],
    ['matches("foobar", "^fo*b")', 'true'],
    ['split("John Doe", "\\\\s")', '["John", "Doe"]'],
    ['string join(["a", "b", null, "c"], "_and_")', '"a_and_b_and_c"'],
    ['list contains([1, 2, 3], 2)', 'true'],
    ['count([1, 2, 3])', '3'],
    ['min([1, 2, 3])', '1'],
    ['max(1, 2, 3)', '3'],
    ['sum([1, 2, 3])', '6'],
    ['sum([])', 'null'],
    ['mean([1, 2, 3])', '2'],
    ['all([true, null, false])', 'false'],
    ['all([])', 'true'],
    ['any([false, null, true])', 'true'],
    ['any([])', 'false'],
    ['sublist([4, 5, 6], 1, 2)', '[4, 5]'],
    ['append([1], 2, 3)', '[1, 2, 3]'],
    ['concatenate([1, 2], [3])', '[1, 2, 3]'],
    ['insert before([1, 3], 1, 2)', '[2, 1, 3]'],
    ['remove([1, 2, 3], 2)', '[1, 3]'],
    ['reverse([1, 2, 3])', '[3, 2, 1]'],
    ['index of([1, 2, 3, 2], 2)', '[2, 4]'],
    ['union([1, 2], [2, 3])', '[1, 2, 3]'],
    ['distinct values([1, 2, 3, 2, 1])', '[1, 2, 3]'],
    ['flatten([[1, 2], [[3]], 4])', '[1, 2, 3, 4]'],
    ['product([2, 3, 4])', '24'],
    ['median([8, 2, 5, 3, 4])', '4'],
    ['median([6, 1, 2, 3])', '2.5'],
    ['mode([6, 3, 9, 6, 6])', '[6]'],
    ['mode([6, 1, 9, 6, 1])', '[1, 6]'],
    ['decimal(1/3, 2)', '0.33'],
    ['decimal(1.5, 0)', '2'],
    ['decimal(2.5, 0)', '2'],
    ['floor(-1.5)', '-2'],
    ['ceiling(1.5)', '2'],
    ['round half up(5.5, 0)', '6'],
    ['abs(-10)', '10'],
    ['modulo(-12, 5)', '3'],
    ['sqrt(16)', '4'],
    ['odd(5)', 'true'],
    ['even(5)', 'false'],
    ['number("1 000,0", " ", ",")', '1000'],
    ['date("2012-12-25").year', '2012'],
    ['years and months duration(date("2011-12-22"), date("2013-08-24"))', 'P1Y8M'],
    ['day of year(date(2019, 9, 17))', '260'],
    ['day of week(date(2019, 9, 17))', '"Tuesday"'],
    ['month of year(date(2019, 9, 17))', '"September"'],
    ['week of year(date(2005, 1, 1))', '53'],
    ['before(1, 10)', 'true'],
    ['before([1..10), [10..20])', 'true'],
    ['after([11..20], [1..10])', 'true'],
    ['meets([1..5], [5..10])', 'true'],
    ['overlaps([1..5], [3..8])', 'true'],
    ['overlaps([1..5), [5..8])', 'false'],
    ['includes([1..10], 5)', 'true'],
    ['during(5, [1..10])', 'true'],
    ['starts([1..5], [1..10])', 'true'],
    ['finishes(10, [1..10])', 'true'],
    ['coincides([1..5], [1..5])', 'true'],
    ['today() = date("2026-11-25")', 'true'],
    ['now() < date and time("2026-11-25T10:31:00")', 'true'],
  ])('%s = %s', (text, expected) => {
    expect(evaluated(text)).toBe(expected);
  });
});

describe('the language', () => {
  test.each([
    ['0.1 + 0.2 = 0.3', 'true'],
    ['3 * 333.33 + 0.01 >= 1000', 'true'],
    ['2 ** 10 - -4', '1028'],
    ['1 / 0', 'null'],
    ['"a" + "b"', '"ab"'],
    ['date("2024-01-31") + duration("P1D")', '2024-02-01'],
    ['date("2024-01-31") + @"P1M"', '2024-02-29'],
    ['date("2024-03-01") - date("2024-02-01")', 'P29D'],
    ['(date("2024-03-01") - date("2024-02-01")) / @"P1D"', '29'],
    ['5 between 1 and 5', 'true'],
    ['null between 1 and 5', 'null'],
    ['5 in (1..5]', 'true'],
    ['5 in (> 5, [1..3])', 'false'],
    ['null = null', 'true'],
    ['null != 1', 'true'],
    ['null < 1', 'null'],
    ['false and null', 'false'],
    ['true or null', 'true'],
    ['not(null)', 'null'],
    ['if null then 1 else 2', '2'],
    ['for i in 1..3, j in [i] return i * j', '[1, 4, 9]'],
    ['for i in 3..1 return i', '[3, 2, 1]'],
    ['some x in [1, null] satisfies x > 1', 'null'],
    ['every x in [] satisfies x > 1', 'true'],
    ['true and some x in [1, 2] satisfies x = 2', 'true'],
    ['[1, 2, 3][-1]', '3'],
    ['[1, 2, 3][item >= 2]', '[2, 3]'],
    ['string length(string: "hello")', '5'],
    ['/* a remark */ 1 + // another\n 2', '3'],
    ['"\\u0041\\n"', '"A\\n"'],
    ['date and time("2027-07-12T10:00:00").time offset', 'PT2H'],
  ])('%s = %s', (text, expected) => {
    expect(evaluated(text)).toBe(expected);
  });

  test.each([
    ['1 +', 'expression/ends-early «»'],
    ['1 2', 'expression/unexpected «2»'],
    ['(1', 'expression/ends-early «»'],
    ['"open', 'expression/open-text «"open»'],
    ['1abc', 'expression/bad-number «1a»'],
    ['a ~ b', 'expression/unknown-character «~»'],
    ['upper cas("x")', 'expression/unknown-function-near «upper cas»'],
    ['wibble(1)', 'expression/unknown-function «wibble»'],
    ['amuont > 1', 'expression/unknown-name-near «amuont»'],
    ['shade = "rad"', 'expression/unknown-option-near «"rad"»'],
    ['shade in ("red", "purple")', 'expression/unknown-option «"purple"»'],
    ['amount > "1"', 'expression/not-comparable «amount > "1"»'],
    ['amount + label', 'expression/operands «amount + label»'],
    ['amount and flag', 'expression/not-a-condition «amount»'],
    ['rows.sise', 'expression/unknown-part-near «sise»'],
    ['some r in amount satisfies r', 'expression/not-a-list «amount»'],
    ['upper case(amount)', 'expression/argument «amount»'],
    ['date("2027-02-30")', 'expression/bad-temporal «"2027-02-30"»'],
    ['{a: 1}', 'expression/left-out «{»'],
    ['amount instance of number', 'expression/left-out «instance»'],
    ['function(x) x', 'expression/left-out «function»'],
    [`${'('.repeat(300)}1`, 'expression/too-deep «(»'],
  ])('%s is refused at its place', (text, expected) => {
    expect(faults(text, scope)[0]).toBe(expected);
  });
});

/** A tree as text without its spans; 1.50 and 1.5 are one number. */
const strip = (node: Node): string =>
  JSON.stringify(node, (key, inner) => {
    if (key === 'span' || key === 'nameSpan') return undefined;
    return inner?.kind === 'number' && 'coefficient' in inner ? writeExact(inner) : inner;
  });

describe('laws, on generated conditions', () => {
  test('parse(print(tree)) is the tree', () => {
    fc.assert(
      fc.property(conditionNode, (node) => {
        const parsed = parseExpression(printExpression(node));
        expect(parsed.ok && strip(parsed.value)).toBe(strip(node));
      }),
      { numRuns: 500 },
    );
  });

  test('closures, the interpreter and the program of a condition agree', () => {
    fc.assert(
      fc.property(conditionNode, namedValues, (node, names) => {
        const checked = checkExpression(node, scope);
        expect(checked.diagnostics).toEqual([]);
        const { frame } = namesOf(names);
        const explained = explainExpression(checked, makeFrame(frame.slots, frame.environment));
        expect(compileExpression(checked)(frame)).toEqual(explained.value);
        expect(holds(checked, frame)).toBe(explained.value === true);
      }),
      { numRuns: 1000 },
    );
  });

  test('the outline loses nothing', () => {
    fc.assert(
      fc.property(conditionNode, (node) => {
        expect(printExpression(writeOutline(readOutline(node)))).toBe(printExpression(node));
      }),
      { numRuns: 500 },
    );
  });

  test('specialise, then evaluate, is evaluate', () => {
    const names = fc.subarray(Object.keys(TYPINGS).filter((name) => name !== 'rows'));
    fc.assert(
      fc.property(conditionNode, namedValues, names, (node, values, known) => {
        const { frame } = namesOf(values);
        const checked = checkExpression(node, scope);
        const left = specialiseExpression(
          checked,
          (name) => known.includes(name),
          makeFrame(frame.slots, frame.environment),
        ).node;
        const again = parseExpression(printExpression(left));
        if (!again.ok) throw new Error(printExpression(left));
        const value = compileExpression(checkExpression(again.value, scope))(makeFrame(frame.slots, frame.environment));
        expect(value).toEqual(compileExpression(checked)(frame));
      }),
      { numRuns: 500 },
    );
  });
});

describe('whatever is typed, there is an answer', () => {
  test('random text gives a value or a diagnostic with its place', () => {
    const pieces = fc.array(
      fc.constantFrom(
        'amount',
        '(',
        ')',
        '[',
        ']',
        '"',
        '..',
        ' and ',
        ' or ',
        'not(',
        '1',
        '-',
        '*',
        '@',
        ',',
        'some ',
        ' in ',
        'rows',
        '.',
        'if ',
        '\\',
        '\u{1f600}',
        '__proto__',
      ),
      { maxLength: 30 },
    );
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string({ unit: 'binary' }),
          pieces.map((list) => list.join('')),
        ),
        (text) => {
          const parsed = parseExpression(text);
          if (parsed.ok) return;
          expect(parsed.diagnostics).toHaveLength(1);
          expect(parsed.diagnostics[0]?.span?.start).toBeGreaterThanOrEqual(0);
        },
      ),
      { numRuns: 2000 },
    );
  });

  test('patterns built to run away and long loops end', () => {
    expect(evaluated(`matches("${'a'.repeat(5000)}!", "(a+)+$")`)).toBe('false');
    expect(evaluated('count(for a in 1..90000, b in 1..90000 return 1)')).toBe('null');
    expect(faults(`"${'x'.repeat(10_000_000)}"`)).toEqual(['expression/too-long «»']);
  });
});

describe('what decided differently before, compiled and explained', () => {
  // DMN 1.3, 10.3.2.7 (unary tests with `?`), 10.3.4.5 (odd, even); XPath F&O 3.1, 5.6.4 (fn:replace), from memory.
  test.each([
    ['odd(9007199254740993)', 'true'],
    ['even(9007199254740993)', 'false'],
    ['even(9007199254740992)', 'true'],
    ['odd(1.5)', 'null'],
    ['odd(-3)', 'true'],
    ['replace("abc", "b", "[$0]")', '"a[b]c"'],
    ['replace("abc", "b", "\\\\$")', '"a$c"'],
    ['replace("abc", "(b)", "$1$1")', '"abbc"'],
    ['replace("abc", "(b)", "[$1$2]")', '"a[b]c"'],
    ['substring(start position: 3, string: "foobar")', '"obar"'],
    ['substring(length: 2, string: "foobar", start position: 3)', '"ob"'],
    ['contains(match: "of", string: "foobar")', 'false'],
    ['replace("abc", "b", "\\\\\\\\")', '"a\\\\c"'],
    ['["red", "blue"] in ["red", "blue"]', 'true'],
    ['["red", "blue"] in ["red"]', 'false'],
    ['5 in (? > 3)', 'true'],
    ['5 in (? > 3 and ? < 4)', 'false'],
    ['"abc" in (starts with(?, "a"))', 'true'],
    ['5 in (not(? > 3))', 'false'],
    ['-2 ** 2', '4'],
    ['-(2 ** 2)', '-4'],
  ])('%s', (text, expected) => {
    expect(evaluated(text)).toBe(expected);
    const explained = explainExpression(checked(text, scope), makeFrame([], ENVIRONMENT));
    expect(show(explained.value)).toBe(expected);
  });
});

describe('an expression that takes too much work is given up, with its place', () => {
  const rows = Array.from({ length: 1000 }, (_, index) => exactInteger(index));
  const names = { long: { typing: typing({ kind: 'list', of: typing(TYPES.number, true) }, true), value: rows } };

  test.each([
    'count(long[count(long[count(long[item > 1]) > 1]) > 1])',
    'for a in long, b in long return a in long',
    'for a in long, b in long return a in (long, b)',
    'for a in long return long = concatenate(long, [a])',
    'string(for a in long, b in [1, 2, 3] return long)',
    'for a in long, b in [1, 2, 3] return [long, long]',
    'for a in long return a ** 33.3',
    'for a in long return exp(a / 1000)',
    'for a in long return log(a + 1)',
    'for a in long, b in [1, 2, 3] return sqrt(a)',
    'for a in long, b in [1, 2, 3] return stddev([a, b])',
    'for a in long return replace(string join(for b in long return "aaaa"), "a", "bb")',
    'for a in long return split(string join(for b in long return "aaaa"), "a")[1]',
    'every a in long, b in long, c in long satisfies a + b + c >= 0',
    'sum(for a in long return count(distinct values(for b in long return string(b))))',
  ])('%s', (text) => {
    const { scope: own, frame } = namesOf(names);
    const given = makeFrame(frame.slots, frame.environment);
    expect(compileExpression(checked(text, own), 'here')(given)).toBeNull();
    expect(given.overruns).toEqual([{ path: 'here', span: expect.objectContaining({ start: expect.any(Number) }) }]);
  });
});

test('references name fields and the columns they read', () => {
  const parsed = parseExpression('count(rows[good and size > amount]) > 0 and some r in rows satisfies r.colour = shade');
  if (!parsed.ok) throw new Error('does not parse');
  expect(referencesOf(checkExpression(parsed.value, scope)).map(({ name, part }) => (part ? `${name}.${part}` : name))).toEqual([
    'rows',
    'rows.good',
    'rows.size',
    'amount',
    'rows.colour',
    'shade',
  ]);
});
