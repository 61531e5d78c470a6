import { KEYWORDS } from '../shared/identifiers.ts';
import { failure, type Result, success } from '../shared/result.ts';
import { findSuggestion } from '../shared/suggestion.ts';
import { term } from '../shared/terms.ts';
import { readExact } from '../values/exact.ts';
import { readDate, readDateTime, readDuration, readTime } from '../values/temporal.ts';
import { findBuiltin, listBuiltinNames } from './builtins/registry.ts';
import { Cursor, ParseFailure, type Token } from './cursor.ts';
import {
  type ArithmeticOperator,
  type Binding,
  type ComparisonOperator,
  childrenOf,
  LIMITS,
  type Node,
  TESTED,
  type UnaryTest,
} from './tree.ts';

const COMPARISONS: ReadonlySet<string> = new Set(['=', '!=', '<', '<=', '>', '>=']);
/** Words that can follow a range and can't begin an expression. */
const AFTER_RANGE: ReadonlySet<string> = new Set(['and', 'or', 'then', 'else', 'satisfies', 'return', 'in', 'between']);
const LEFT_OUT: Readonly<Record<string, string>> = { instance: 'instance of', function: 'function definitions' };
/** Functions of the standard that take functions. */
const LEFT_OUT_CALLS: ReadonlySet<string> = new Set([
  'sort',
  'get value',
  'get entries',
  'context',
  'context put',
  'context merge',
]);

/**
 * Reads one FEEL expression of the profile in `docs/expressions.md` (OMG DMN 1.3, clause 10.3).
 * Codes: `expression/…` with the span of what is wrong.
 *
 * @example parseExpression('total > 50000 and any fragile') // fails: 'any' is no name
 */
export const parseExpression = (text: string): Result<Node> => run(text, readExpression, (node) => [node]);

/** Reads the unary tests of a decision table's cell: `< 5, [10..20]`, `"a", "b"`, `not("a")`, `-`. Null stands for `-`. */
export const parseUnaryTests = (text: string): Result<UnaryTestsCell> =>
  run(text, readUnaryTestsCell, (cell) => (cell?.tests ?? []).map((test) => (test.kind === 'compares' ? test.to : test.node)));

/** A decision table's input cell. */
export type UnaryTestsCell = { readonly negated: boolean; readonly tests: readonly UnaryTest[] } | null;

function run<T>(text: string, read: (cursor: Cursor) => T, nodesOf: (value: T) => readonly Node[]): Result<T> {
  try {
    const cursor = new Cursor(text);
    const value = read(cursor);
    if (cursor.token.kind !== 'end') throw cursor.unexpected(term('syntax/end'));
    const deep = findTooDeep(text, nodesOf(value));
    if (deep) throw cursor.failure('expression/too-deep', { limit: LIMITS.chain }, deep.span);
    return success(value);
  } catch (error) {
    if (error instanceof ParseFailure) return failure([error.diagnostic]);
    throw error;
  }
}

/**
 * Returns a node that lies deeper in the tree than `LIMITS.chain`; null if there is none. A chain of operators (`a + b + …`, `a.b.c`)
 * makes a deep tree although the text isn't nested, and the recursive functions that walk the tree would run out of stack.
 */
function findTooDeep(text: string, nodes: readonly Node[]): Node | null {
  // Each level of the tree takes at least two characters of the text.
  if (text.length < 2 * LIMITS.chain) return null;
  let level = nodes;
  for (let depth = 0; level.length > 0; depth++) {
    if (depth > LIMITS.chain) return level[0] ?? null;
    level = level.flatMap(childrenOf);
  }
  return null;
}

function readUnaryTestsCell(cursor: Cursor): UnaryTestsCell {
  if (cursor.at('-') && cursor.peek().kind === 'end') {
    cursor.advance();
    return null;
  }
  if (cursor.at('not') && cursor.peek().text === '(') {
    cursor.advance();
    cursor.advance();
    const tests = readTests(cursor);
    cursor.expect(')');
    return { negated: true, tests };
  }
  return { negated: false, tests: readTests(cursor) };
}

function readTests(cursor: Cursor): UnaryTest[] {
  const tests = [readTest(cursor)];
  while (cursor.accept(',')) tests.push(readTest(cursor));
  return tests;
}

function readTest(cursor: Cursor): UnaryTest {
  cursor.openTests += 1;
  const test = readOneTest(cursor);
  cursor.openTests -= 1;
  return test;
}

function readOneTest(cursor: Cursor): UnaryTest {
  const start = cursor.token.start;
  const readsBefore = cursor.testedReads;
  if (cursor.token.kind === 'symbol' && COMPARISONS.has(cursor.token.text)) {
    const operator = cursor.advance().text as ComparisonOperator;
    const to = readAdditive(cursor);
    return { kind: 'compares', operator, to, span: { start, end: cursor.previousEnd } };
  }
  const node = readExpression(cursor);
  const kind = cursor.testedReads > readsBefore ? 'holds' : 'matches';
  // What an inner test reads is that test's.
  cursor.testedReads = readsBefore;
  return { kind, node, span: { start, end: cursor.previousEnd } };
}

function readExpression(cursor: Cursor): Node {
  cursor.enter();
  const node = readForm(cursor);
  cursor.leave();
  return node;
}

function readForm(cursor: Cursor): Node {
  if (cursor.token.kind === 'name') {
    if (cursor.at('if')) return readIf(cursor);
    if (cursor.at('for')) return readFor(cursor);
    if (cursor.at('some') || cursor.at('every')) return readQuantified(cursor);
  }
  return readChain(cursor, 'or');
}

function readIf(cursor: Cursor): Node {
  const start = cursor.advance().start;
  const test = readExpression(cursor);
  cursor.expect('then');
  const then = readExpression(cursor);
  cursor.expect('else');
  const otherwise = readExpression(cursor);
  return { kind: 'if', test, then, otherwise, span: { start, end: cursor.previousEnd } };
}

function readBindings(cursor: Cursor, allowsRange: boolean): Binding[] {
  const bindings: Binding[] = [];
  do {
    const token = cursor.token;
    if (token.kind !== 'name' || KEYWORDS.has(token.text)) throw cursor.unexpected(term('syntax/item-name'));
    cursor.advance();
    cursor.expect('in');
    const low = readExpression(cursor);
    let source = low;
    if (allowsRange && cursor.accept('..')) {
      const high = readExpression(cursor);
      const span = { start: low.span.start, end: cursor.previousEnd };
      source = { kind: 'range', low, high, includesLow: true, includesHigh: true, span };
    }
    bindings.push({ name: token.text, nameSpan: { start: token.start, end: token.end }, source });
  } while (cursor.accept(','));
  return bindings;
}

function readFor(cursor: Cursor): Node {
  const start = cursor.advance().start;
  const bindings = readBindings(cursor, true);
  cursor.expect('return');
  const returns = readExpression(cursor);
  return { kind: 'for', bindings, returns, span: { start, end: cursor.previousEnd } };
}

function readQuantified(cursor: Cursor): Node {
  const token = cursor.advance();
  const bindings = readBindings(cursor, false);
  cursor.expect('satisfies');
  const satisfies = readExpression(cursor);
  const which = token.text as 'some' | 'every';
  return { kind: 'quantified', which, bindings, satisfies, span: { start: token.start, end: cursor.previousEnd } };
}

function readChain(cursor: Cursor, word: 'or' | 'and'): Node {
  const read = word === 'or' ? (inner: Cursor) => readChain(inner, 'and') : readComparison;
  const first = read(cursor);
  if (!cursor.at(word)) return first;
  const operands = [first];
  while (cursor.accept(word)) operands.push(read(cursor));
  const span = { start: first.span.start, end: cursor.previousEnd };
  return { kind: word === 'or' ? 'any' : 'all', of: operands, span };
}

function readComparison(cursor: Cursor): Node {
  let node = readAdditive(cursor);
  for (;;) {
    const start = node.span.start;
    const token = cursor.token;
    if (token.kind === 'symbol' && COMPARISONS.has(token.text)) {
      cursor.advance();
      const right = readAdditive(cursor);
      const operator = token.text as ComparisonOperator;
      node = { kind: 'compare', operator, left: node, right, span: { start, end: cursor.previousEnd } };
    } else if (cursor.accept('between')) {
      const low = readAdditive(cursor);
      cursor.expect('and');
      const high = readAdditive(cursor);
      node = { kind: 'between', value: node, low, high, span: { start, end: cursor.previousEnd } };
    } else if (cursor.accept('in')) {
      const tests = readInTests(cursor);
      node = { kind: 'in', value: node, tests, span: { start, end: cursor.previousEnd } };
    } else if (cursor.at('instance')) {
      throw cursor.failure('expression/left-out', { what: 'instance of' });
    } else return node;
  }
}

function readInTests(cursor: Cursor): readonly UnaryTest[] {
  if (!cursor.at('(')) {
    const test = cursor.token.kind === 'symbol' && COMPARISONS.has(cursor.token.text) ? readTest(cursor) : null;
    if (test) return [test];
    const node = readAdditive(cursor);
    return [{ kind: 'matches', node, span: node.span }];
  }
  const open = cursor.advance();
  const first = readTest(cursor);
  if (cursor.at('..') && first.kind === 'matches') {
    const node = finishRange(cursor, open.start, first.node, false);
    return [{ kind: 'matches', node, span: node.span }];
  }
  const tests = [first];
  while (cursor.accept(',')) tests.push(readTest(cursor));
  cursor.expect(')');
  return tests;
}

function readArithmetic(cursor: Cursor, operators: readonly ArithmeticOperator[], readOperand: (cursor: Cursor) => Node): Node {
  let node = readOperand(cursor);
  while (cursor.token.kind === 'symbol' && operators.includes(cursor.token.text as ArithmeticOperator)) {
    cursor.enter();
    const operator = cursor.advance().text as ArithmeticOperator;
    const right = readOperand(cursor);
    const span = { start: node.span.start, end: cursor.previousEnd };
    node = { kind: 'arithmetic', operator, left: node, right, span };
    cursor.leave();
  }
  return node;
}

const readAdditive = (cursor: Cursor): Node => readArithmetic(cursor, ['+', '-'], readProduct);
const readProduct = (cursor: Cursor): Node => readArithmetic(cursor, ['*', '/'], readPower);
const readPower = (cursor: Cursor): Node => readArithmetic(cursor, ['**'], readSigned);

function readSigned(cursor: Cursor): Node {
  if (!cursor.at('-')) return readPostfix(cursor);
  const start = cursor.advance().start;
  cursor.enter();
  const of = readSigned(cursor);
  cursor.leave();
  return { kind: 'negate', of, span: { start, end: cursor.previousEnd } };
}

function readPostfix(cursor: Cursor): Node {
  cursor.enter();
  let node = readPrimary(cursor);
  for (;;) {
    const start = node.span.start;
    if (cursor.accept('.')) {
      const name = readPathName(cursor);
      node = { kind: 'path', of: node, name: name.text, nameSpan: name, span: { start, end: cursor.previousEnd } };
    } else if (cursor.at('[') && !closesRange(cursor)) {
      cursor.advance();
      const where = readExpression(cursor);
      cursor.expect(']');
      node = { kind: 'filter', of: node, where, span: { start, end: cursor.previousEnd } };
    } else if (cursor.at('(')) {
      throw cursor.failure('expression/not-a-function', { found: cursor.text.slice(start, node.span.end) }, node.span);
    } else break;
  }
  cursor.leave();
  return node;
}

/** In `]1..3[` the bracket closes the range: nothing that could be a filter's condition comes after it. */
function closesRange(cursor: Cursor): boolean {
  if (cursor.openRanges === 0) return false;
  return !canBegin(cursor.peek());
}

/** Whether an expression can begin with a token. */
function canBegin(token: Token): boolean {
  if (token.kind === 'symbol') return ['(', '[', '-', '@', ']', TESTED].includes(token.text);
  return token.kind !== 'end' && !(token.kind === 'name' && AFTER_RANGE.has(token.text));
}

/** Properties of temporal values are two words in FEEL: `time offset`. */
function readPathName(cursor: Cursor): { text: string; start: number; end: number } {
  const token = cursor.token;
  if (token.kind !== 'name' || KEYWORDS.has(token.text)) throw cursor.unexpected(term('syntax/field-name'));
  cursor.advance();
  if (token.text === 'time' && cursor.at('offset')) {
    const end = cursor.advance().end;
    return { text: 'time offset', start: token.start, end };
  }
  return { text: token.text, start: token.start, end: token.end };
}

function readPrimary(cursor: Cursor): Node {
  const token = cursor.token;
  const span = { start: token.start, end: token.end };
  switch (token.kind) {
    case 'number': {
      const value = readExact(token.text);
      if (!value) throw cursor.failure('expression/bad-number', { found: token.text });
      cursor.advance();
      return { kind: 'number', value, span };
    }
    case 'text':
      cursor.advance();
      return { kind: 'text', value: token.content, span };
    case 'name':
      return readWord(cursor);
    case 'symbol':
      return readBracketed(cursor);
    case 'end':
      throw cursor.unexpected(term('syntax/value'));
    default:
      return token.kind satisfies never;
  }
}

function readWord(cursor: Cursor): Node {
  const token = cursor.token;
  const span = { start: token.start, end: token.end };
  if (token.text === 'true' || token.text === 'false') {
    cursor.advance();
    return { kind: 'boolean', value: token.text === 'true', span };
  }
  if (token.text === 'null') {
    cursor.advance();
    return { kind: 'null', span };
  }
  if (cursor.at('if') || cursor.at('for') || cursor.at('some') || cursor.at('every')) return readForm(cursor);
  const call = readCall(cursor);
  if (call) return call;
  if (KEYWORDS.has(token.text)) {
    const what = LEFT_OUT[token.text];
    if (what) throw cursor.failure('expression/left-out', { what });
    throw cursor.unexpected(term('syntax/value'));
  }
  cursor.advance();
  return { kind: 'name', name: token.text, span };
}

/** Words of a possible call, longest first, up to the bracket: built-ins have names of several words. */
function readCall(cursor: Cursor): Node | null {
  const match = /^[A-Za-z_][A-Za-z0-9_]*(?:\s+[A-Za-z_][A-Za-z0-9_]*){0,5}\s*\(/.exec(
    cursor.text.slice(cursor.token.start, cursor.token.start + 200),
  );
  if (!match) return null;
  const name = match[0].slice(0, -1).trim().replace(/\s+/g, ' ');
  const first = cursor.token;
  if (!findBuiltin(name)) {
    if (KEYWORDS.has(first.text) || (name.includes(' ') && /\b(and|or|in|then|else|satisfies|return|between)\b/.test(name)))
      return null;
    if (LEFT_OUT_CALLS.has(name)) throw cursor.failure('expression/left-out', { what: `${name}()` });
    const suggestion = findSuggestion(name, listBuiltinNames());
    const span = { start: first.start, end: first.start + match[0].length - 1 };
    throw suggestion
      ? cursor.failure('expression/unknown-function-near', { found: name, suggestion }, span)
      : cursor.failure('expression/unknown-function', { found: name }, span);
  }
  while (!cursor.at('(')) cursor.advance();
  const nameSpan = { start: first.start, end: cursor.previousEnd };
  cursor.advance();
  const { of, parameters } = readArguments(cursor);
  cursor.expect(')');
  return { kind: 'call', name, nameSpan, of, parameters, span: { start: first.start, end: cursor.previousEnd } };
}

function readArguments(cursor: Cursor): { of: readonly Node[]; parameters: readonly string[] | null } {
  if (cursor.at(')')) return { of: [], parameters: null };
  const named = /^\s*[A-Za-z][A-Za-z ]*:/.test(cursor.text.slice(cursor.token.start, cursor.token.start + 60));
  const of: Node[] = [];
  const parameters: string[] = [];
  do {
    if (named) {
      const words: string[] = [];
      while (cursor.token.kind === 'name') words.push(cursor.advance().text);
      cursor.expect(':');
      parameters.push(words.join(' '));
    }
    of.push(readExpression(cursor));
  } while (cursor.accept(','));
  return { of, parameters: named ? parameters : null };
}

function readBracketed(cursor: Cursor): Node {
  const open = cursor.token;
  if (open.text === '(') {
    cursor.advance();
    const inner = readExpression(cursor);
    if (cursor.at('..')) return finishRange(cursor, open.start, inner, false);
    cursor.expect(')');
    return inner;
  }
  if (open.text === '[') return readListOrRange(cursor);
  if (open.text === ']' && canBegin(cursor.peek())) {
    cursor.advance();
    return finishRange(cursor, open.start, readExpression(cursor), false);
  }
  if (open.text === '@') return readAtLiteral(cursor);
  if (open.text === TESTED && cursor.openTests > 0) {
    cursor.advance();
    cursor.testedReads += 1;
    return { kind: 'name', name: TESTED, span: { start: open.start, end: open.end } };
  }
  if (open.text === '{') throw cursor.failure('expression/left-out', { what: term('syntax/contexts') });
  throw cursor.unexpected(term('syntax/value'));
}

function readListOrRange(cursor: Cursor): Node {
  const start = cursor.advance().start;
  const items: Node[] = [];
  if (!cursor.at(']')) {
    items.push(readExpression(cursor));
    if (cursor.at('..')) return finishRange(cursor, start, items[0] as Node, true);
    while (cursor.accept(',')) items.push(readExpression(cursor));
  }
  cursor.expect(']');
  return { kind: 'list', of: items, span: { start, end: cursor.previousEnd } };
}

function finishRange(cursor: Cursor, start: number, low: Node, includesLow: boolean): Node {
  cursor.expect('..');
  cursor.openRanges += 1;
  const high = readExpression(cursor);
  cursor.openRanges -= 1;
  const close = cursor.token.text;
  if (close !== ']' && close !== ')' && close !== '[') throw cursor.unexpected("']', ')'");
  cursor.advance();
  return { kind: 'range', low, high, includesLow, includesHigh: close === ']', span: { start, end: cursor.previousEnd } };
}

function readAtLiteral(cursor: Cursor): Node {
  const { start, end } = cursor.advance();
  const literal = cursor.token;
  if (literal.kind !== 'text' || literal.start !== end) throw cursor.unexpected(term('syntax/temporal'));
  const text = literal.content;
  if (!(readDate(text) ?? readTime(text) ?? readDuration(text) ?? readDateTime(text, 'UTC'))) {
    throw cursor.failure('expression/bad-temporal', { found: text });
  }
  cursor.advance();
  return { kind: 'temporal', text, span: { start, end: cursor.previousEnd } };
}
