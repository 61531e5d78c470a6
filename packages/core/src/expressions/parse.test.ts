import { describe, expect, test } from '@jest/globals';
import { writeExact } from '../values/exact.ts';
import { parseExpression, parseUnaryTests } from './parse.ts';
import { printExpression, printText, printUnaryTests } from './print.ts';
import { childrenOf, type Node } from './tree.ts';

function parsed(text: string): Node {
  const result = parseExpression(text);
  if (!result.ok) throw new Error(`${text}: ${JSON.stringify(result.diagnostics)}`);
  return result.value;
}

/** The tree as nested lists, operator first. */
function shape(node: Node): string {
  const of = childrenOf(node).map(shape);
  switch (node.kind) {
    case 'name':
      return node.name;
    case 'number':
      return writeExact(node.value);
    case 'text':
      return JSON.stringify(node.value);
    case 'boolean':
      return String(node.value);
    case 'compare':
    case 'arithmetic':
      return `(${node.operator} ${of.join(' ')})`;
    case 'path':
      return `(. ${of.join(' ')} ${node.name})`;
    case 'call':
      return `(${[node.name, ...of].join(' ')})`;
    case 'quantified':
      return `(${node.which} ${of.join(' ')})`;
    default:
      return `(${[node.kind, ...of].join(' ')})`;
  }
}

// OMG DMN 1.3, 10.3.1.2: the grammar's rules of precedence, worked by hand.
describe('what binds to what', () => {
  test.each([
    ['1 + 2 * 3', '(+ 1 (* 2 3))'],
    ['1 * 2 + 3', '(+ (* 1 2) 3)'],
    ['1 - 2 - 3', '(- (- 1 2) 3)'],
    ['8 / 4 / 2', '(/ (/ 8 4) 2)'],
    ['2 ** 3 ** 2', '(** (** 2 3) 2)'],
    ['2 * 3 ** 2', '(* 2 (** 3 2))'],
    ['-a + b', '(+ (negate a) b)'],
    ['-(a + b)', '(negate (+ a b))'],
    ['a - -b', '(- a (negate b))'],
    ['a or b and c', '(any a (all b c))'],
    ['a and b or c and d', '(any (all a b) (all c d))'],
    ['a and b and c', '(all a b c)'],
    ['(a and b) and c', '(all (all a b) c)'],
    ['a or (b or c)', '(any a (any b c))'],
    ['a < b and c = d', '(all (< a b) (= c d))'],
    ['a + 1 < b * 2', '(< (+ a 1) (* b 2))'],
    ['a between 1 and 2 and b', '(all (between a 1 2) b)'],
    ['a between b + 1 and c or d', '(any (between a (+ b 1) c) d)'],
    ['a in (1, 2) or b', '(any (in a 1 2) b)'],
    ['a in b and c', '(all (in a b) c)'],
    ['a = b = c', '(= (= a b) c)'],
    ['not(a) and b', '(all (not a) b)'],
    ['if a then b else c or d', '(if a b (any c d))'],
    ['if a then if b then c else d else e', '(if a (if b c d) e)'],
    ['some x in y satisfies x > 1 and z', '(some y (all (> x 1) z))'],
    ['(some x in y satisfies x) and z', '(all (some y x) z)'],
    ['for x in y return x + 1', '(for y (+ x 1))'],
    ['a.b.c', '(. (. a b) c)'],
    ['a[1].b', '(. (filter a 1) b)'],
    ['a.b[c > 1]', '(filter (. a b) (> c 1))'],
    ['-a.b', '(negate (. a b))'],
    ['a[b][c]', '(filter (filter a b) c)'],
    ['f.x + count(g)', '(+ (. f x) (count g))'],
    ['string length("a") > 1', '(> (string length "a") 1)'],
    ['date and time("x")', '(date and time "x")'],
    ['a and date and time("x") = b', '(all a (= (date and time "x") b))'],
    ['[1, [2]]', '(list 1 (list 2))'],
    ['[1..2]', '(range 1 2)'],
    ['x in ]1..3[', '(in x (range 1 3))'],
    ['x in (1..3)', '(in x (range 1 3))'],
    ['x in ([1..3], 5)', '(in x (range 1 3) 5)'],
    ['x in ]a..b[ and c', '(all (in x (range a b)) c)'],
    ['[a..b[c]]', '(range a (filter b c))'],
    ['/* one */ a // two', 'a'],
  ])('%s', (text, expected) => {
    const node = parsed(text);
    expect(shape(node)).toBe(expected);
    // Brackets that change nothing go; the tree stays.
    expect(shape(parsed(printExpression(node)))).toBe(expected);
  });

  test.each([
    ['((a))', 'a'],
    ['(a + b) * c', '(a + b) * c'],
    ['a + (b * c)', 'a + b * c'],
    ['a - (b - c)', 'a - (b - c)'],
    ['(a and b) or c', 'a and b or c'],
    ['(a or b) and c', '(a or b) and c'],
    ['1.50', '1.5'],
    ['1e3', '1000'],
    ['"a\\u0041"', '"aA"'],
    ['a   =b', 'a = b'],
    ['not( a )', 'not(a)'],
    ['substring(string:"a",start position:1)', 'substring(string: "a", start position: 1)'],
    ['x in ]1..3[', 'x in (1..3)'],
    ['(if a then b else c) + 1', '(if a then b else c) + 1'],
    ['-(-a)', '--a'],
    ['(-a) ** 2', '-a ** 2'],
  ])('%s is written %s', (text, expected) => {
    expect(printExpression(parsed(text))).toBe(expected);
  });
});

describe('every node knows where it stands', () => {
  test.each([
    'a + b * c',
    'not(a) or b',
    'count(rows[x > 1]) >= 3',
    'if a then "b" else c',
    'some x in y satisfies x = 1',
    'a in (1, [2..3])',
  ])('%s', (text) => {
    const visit = (node: Node): void => {
      const own = text.slice(node.span.start, node.span.end);
      expect(shape(parsed(own))).toBe(shape(node));
      for (const child of childrenOf(node)) {
        expect(child.span.start).toBeGreaterThanOrEqual(node.span.start);
        expect(child.span.end).toBeLessThanOrEqual(node.span.end);
        visit(child);
      }
    };
    visit(parsed(text));
  });
});

describe('errors stand at their place and say what to do', () => {
  test.each<[string, string, string]>([
    ['', 'expression/ends-early', ''],
    ['a and', 'expression/ends-early', ''],
    ['a and or b', 'expression/unexpected', 'or'],
    ['a b', 'expression/unexpected', 'b'],
    ['(a', 'expression/ends-early', ''],
    ['a)', 'expression/unexpected', ')'],
    ['[1, ]', 'expression/unexpected', ']'],
    ['f(1', 'expression/unknown-function', 'f'],
    ['count(1', 'expression/ends-early', ''],
    ['if a then b', 'expression/ends-early', ''],
    ['if a b', 'expression/unexpected', 'b'],
    ['some x y satisfies z', 'expression/unexpected', 'y'],
    ['for in y return z', 'expression/unexpected', 'in'],
    ['a between 1', 'expression/ends-early', ''],
    ['a between 1 or 2', 'expression/unexpected', 'or'],
    ['a.', 'expression/ends-early', ''],
    ['a.1', 'expression/unexpected', '.1'],
    ['a.null', 'expression/unexpected', 'null'],
    ['"a', 'expression/open-text', '"a'],
    ['"\\q"', 'expression/bad-escape', '\\q'],
    ['/* a', 'expression/open-comment', '/* a'],
    ['a ~ b', 'expression/unknown-character', '~'],
    ['1x', 'expression/bad-number', '1x'],
    ['@"2027-02-30"', 'expression/bad-temporal', '"2027-02-30"'],
    ['@5', 'expression/unexpected', '5'],
    ['@ "2027-01-01"', 'expression/unexpected', '"2027-01-01"'],
    ['[1..2', 'expression/ends-early', ''],
    ['[1..]', 'expression/unexpected', ']'],
    ['a(1)', 'expression/unknown-function', 'a'],
    ['(a)(1)', 'expression/not-a-function', 'a'],
    ['lenght("a")', 'expression/unknown-function', 'lenght'],
    ['uper case("a")', 'expression/unknown-function-near', 'uper case'],
    ['{a: 1}', 'expression/left-out', '{'],
    ['a instance of number', 'expression/left-out', 'instance'],
  ])('%s', (text, code, marked) => {
    const result = parseExpression(text);
    if (result.ok) throw new Error(shape(result.value));
    expect(result.diagnostics).toHaveLength(1);
    const [found] = result.diagnostics;
    expect([found?.code, found?.span && text.slice(found.span.start, found.span.end)]).toEqual([code, marked]);
  });
});

describe('cells of decision tables', () => {
  test.each<[string, string]>([
    ['-', '-'],
    ['5', '5'],
    ['< 5', '< 5'],
    ['>=5,  [1..3)', '>= 5, [1..3)'],
    ['"a","b"', '"a", "b"'],
    ['not("a", < 3)', 'not("a", < 3)'],
    ['not(5)', 'not(5)'],
    ['a + 1', 'a + 1'],
    ['-5', '-5'],
    ['(1..3), ]5..7[', '(1..3), (5..7)'],
    ['null', 'null'],
    ['@"2027-01-01"', '@"2027-01-01"'],
  ])('%s', (text, expected) => {
    const result = parseUnaryTests(text);
    expect(result.ok && printUnaryTests(result.value)).toBe(expected);
  });

  test.each([
    ['', 'expression/ends-early'],
    ['<', 'expression/ends-early'],
    ['5,', 'expression/ends-early'],
    ['not(', 'expression/ends-early'],
    ['- 5 6', 'expression/unexpected'],
    ['a b', 'expression/unexpected'],
  ])('%s is refused', (text, code) => {
    const result = parseUnaryTests(text);
    expect(result.ok ? '' : result.diagnostics[0]?.code).toBe(code);
  });
});

test('texts are written with the escapes they need and read back', () => {
  for (const text of ['', 'a', '"', '\\', '\n\r\t', 'ä😀', '\\n', '"\\"', '//', '/* */']) {
    const node = parsed(printText(text));
    expect(node.kind === 'text' && node.value).toBe(text);
  }
});

describe('what stands behind “in”, as it is written again', () => {
  test.each([
    'n in list',
    'n in row.list',
    'n in [1, 2]',
    'n in [1..2]',
    'n in (1, 2)',
    'n in (> 1)',
    'n in (1)',
    'n in (a + 1)',
    'n in (list, 3)',
  ])('%s', (text) => {
    const parsed = parseExpression(text);
    if (!parsed.ok) throw new Error(JSON.stringify(parsed.diagnostics));
    expect(printExpression(parsed.value)).toBe(text);
  });
});
