import type { Span } from '../shared/diagnostic.ts';
import { ARITHMETIC, negateValue } from '../values/arithmetic.ts';
import { addExact, compareExact, type Exact, multiplyExact, subtractExact } from '../values/exact.ts';
import {
  andTruth,
  type ContextValue,
  compareText,
  inRange,
  isList,
  orTruth,
  type RangeValue,
  type Truth,
  type Value,
} from '../values/value.ts';
import { findBuiltin } from './builtins/registry.ts';
import type { CheckedExpression } from './check.ts';
import { compileNumberTest } from './compile-number-test.ts';
import { type ConditionProgram, makeProgram, programOf } from './condition-program.ts';
import { type Frame, takeSteps, withinSteps } from './frame.ts';
import {
  bounded,
  callBuiltin,
  compareWith,
  isMetered,
  loopItems,
  matchesTest,
  meterComparison,
  meterItems,
  raise,
  readIndex,
  readPath,
  readsTested,
  readTemporalLiteral,
  weightOf,
} from './operators.ts';
import { type Binding, type CompareNode, LIMITS, type Node, type UnaryTest } from './tree.ts';
import type { TypeKind } from './types.ts';

/** A compiled expression: reads a frame, yields a value. */
export type Evaluate<T extends Value = Value> = (frame: Frame) => T;

/**
 * Compiles a checked expression without diagnostics to closures over slots. No text is ever turned into code, so it runs
 * under a strict content security policy. `path` says where it stands, for when it is given up. Agrees with {@link explainExpression} by generated tests.
 */
export function compileExpression(checked: CheckedExpression, path = ''): Evaluate {
  const evaluate = compile(checked.node, checked);
  return isMetered(checked.node, checked) ? (frame) => withinSteps(frame, path, () => evaluate(frame)) : evaluate;
}

/**
 * Compiles a condition: whether it is true. As {@link compileExpression} says, save that false and unknown are one. What can
 * count steps is evaluated whole, so that it is given up where its explanation is.
 */
export function compileCondition(checked: CheckedExpression, path = ''): ConditionProgram {
  if (isMetered(checked.node, checked)) return programOf(compileExpression(checked, path));
  return makeProgram(checked, (node) => compile(node, checked));
}

const asTruth = (value: Value): Truth => (value === true ? true : value === false ? false : null);

function compile(node: Node, checked: CheckedExpression): Evaluate {
  switch (node.kind) {
    case 'null':
      return () => null;
    case 'boolean':
    case 'number':
    case 'text': {
      const { value } = node;
      return () => value;
    }
    case 'temporal': {
      const { text } = node;
      const fixed = readTemporalLiteral(text, { zone: 'UTC' });
      const isFixed = fixed !== null && (fixed as { kind: string }).kind !== 'date-time';
      return isFixed ? () => fixed : (frame) => readTemporalLiteral(text, frame.environment);
    }
    case 'name':
      return compileName(node, checked);
    case 'path': {
      const of = compile(node.of, checked);
      const { name } = node;
      const { span } = node;
      if (checked.typings.get(node.of)?.type.kind !== 'context')
        return (frame) => meterItems(readPath(of(frame), name), frame, span);
      return (frame) => {
        const context = of(frame) as ContextValue | null;
        return context === null ? null : (context.entries[name] ?? null);
      };
    }
    case 'negate': {
      const of = compile(node.of, checked);
      return (frame) => negateValue(of(frame));
    }
    case 'arithmetic':
      return compileArithmetic(node, checked);
    case 'compare':
      return compileCompare(node, checked);
    case 'between': {
      const [value, low, high] = [node.value, node.low, node.high].map((part) => compile(part, checked)) as [
        Evaluate,
        Evaluate,
        Evaluate,
      ];
      return (frame) => {
        const found = value(frame);
        return andTruth(compareWith('>=', found, low(frame)), compareWith('<=', found, high(frame)));
      };
    }
    case 'in':
      return compileIn(node.value, node.tests, checked);
    case 'all':
      return compileAll(node.of.map((part) => compile(part, checked)));
    case 'any':
      return compileAny(node.of.map((part) => compile(part, checked)));
    case 'if': {
      const [test, then, otherwise] = [node.test, node.then, node.otherwise].map((part) => compile(part, checked)) as [
        Evaluate,
        Evaluate,
        Evaluate,
      ];
      return (frame) => (test(frame) === true ? then(frame) : otherwise(frame));
    }
    case 'quantified':
      return compileQuantified(node.which === 'some', node.bindings, node.satisfies, checked);
    case 'for':
      return compileFor(node.bindings, node.returns, checked);
    case 'filter':
      return compileFilter(node, checked);
    case 'call':
      return compileCall(node, checked);
    case 'list': {
      const items = node.of.map((part) => compile(part, checked));
      const { span } = node;
      return (frame) => items.map((item) => meterItems(item(frame), frame, span));
    }
    case 'range': {
      const [low, high] = [compile(node.low, checked), compile(node.high, checked)];
      const { includesLow, includesHigh } = node;
      return (frame): RangeValue => ({ kind: 'range', low: low(frame), high: high(frame), includesLow, includesHigh });
    }
    default:
      return node satisfies never;
  }
}

function compileName(node: Extract<Node, { kind: 'name' }>, checked: CheckedExpression): Evaluate {
  const reference = checked.references.get(node);
  if (!reference) throw new Error(`unresolved name: ${node.name}`);
  if (reference.kind === 'slot') {
    const { slot } = reference;
    return (frame) => frame.slots[slot] as Value;
  }
  const { local } = reference;
  if (reference.kind === 'local') return (frame) => frame.locals[local] as Value;
  const { name } = node;
  return (frame) => readPath(frame.locals[local] as Value, name);
}

function compileArithmetic(node: Extract<Node, { kind: 'arithmetic' }>, checked: CheckedExpression): Evaluate {
  const [left, right] = [compile(node.left, checked), compile(node.right, checked)];
  const isNumeric = [node.left, node.right].every((side) => checked.typings.get(side)?.type.kind === 'number');
  const exact = { '+': addExact, '-': subtractExact, '*': multiplyExact, '/': null, '**': null }[node.operator];
  if (isNumeric && exact) {
    return (frame) => {
      const a = left(frame) as Exact | null;
      if (a === null) return null;
      const b = right(frame) as Exact | null;
      return b === null ? null : exact(a, b);
    };
  }
  const { span } = node;
  if (node.operator === '**') return (frame) => raise(left(frame), right(frame), frame, span);
  const operation = ARITHMETIC[node.operator];
  return (frame) => bounded(operation(left(frame), right(frame)));
}

type Order = (a: Value, b: Value) => number;
const ORDERS: Partial<Record<TypeKind, Order>> = {
  number: (a, b) => compareExact(a as Exact, b as Exact),
  text: (a, b) => (a === b ? 0 : compareText(a as string, b as string)),
  choice: (a, b) => (a === b ? 0 : compareText(a as string, b as string)),
  date: (a, b) => (a as { day: number }).day - (b as { day: number }).day,
  'date-time': (a, b) => (a as { ms: number }).ms - (b as { ms: number }).ms,
  'days-duration': (a, b) => (a as { ms: number }).ms - (b as { ms: number }).ms,
};

function compileCompare(node: CompareNode, checked: CheckedExpression): Evaluate<Truth> {
  const kinds = [node.left, node.right].map((side) => checked.typings.get(side)?.type.kind);
  const [left, right] = [compile(node.left, checked), compile(node.right, checked)];
  const { operator } = node;
  if (kinds[0] === 'number' && node.right.kind === 'number') {
    return compileNumberTest(operator, left as Evaluate<Exact | null>, node.right.value);
  }
  if (node.right.kind === 'null' && (operator === '=' || operator === '!=')) {
    return operator === '=' ? (frame) => left(frame) === null : (frame) => left(frame) !== null;
  }
  const isScalar = kinds.every((kind) => kind === 'text' || kind === 'choice' || kind === 'boolean');
  if (isScalar && (operator === '=' || operator === '!=')) {
    const { right: literal } = node;
    if (literal.kind === 'text' || literal.kind === 'boolean') {
      const { value } = literal;
      return operator === '=' ? (frame) => left(frame) === value : (frame) => left(frame) !== value;
    }
    return operator === '=' ? (frame) => left(frame) === right(frame) : (frame) => left(frame) !== right(frame);
  }
  const order = kinds[0] === kinds[1] && kinds[0] ? ORDERS[kinds[0]] : undefined;
  if (!order || (operator !== '<' && operator !== '<=' && operator !== '>' && operator !== '>=')) {
    const { span } = node;
    return (frame) => {
      const [a, b] = [left(frame), right(frame)];
      meterComparison(a, b, frame, span);
      return compareWith(operator, a, b);
    };
  }
  return compileOrder(operator, order, left, right);
}

function compileOrder(operator: '<' | '<=' | '>' | '>=', order: Order, left: Evaluate, right: Evaluate): Evaluate<Truth> {
  const with2 =
    (holds: (found: number) => boolean): Evaluate<Truth> =>
    (frame) => {
      const a = left(frame);
      if (a === null) return null;
      const b = right(frame);
      return b === null ? null : holds(order(a, b));
    };
  switch (operator) {
    case '<':
      return with2((found) => found < 0);
    case '<=':
      return with2((found) => found <= 0);
    case '>':
      return with2((found) => found > 0);
    case '>=':
      return with2((found) => found >= 0);
    default:
      return operator satisfies never;
  }
}

function compileIn(value: Node, tests: readonly UnaryTest[], checked: CheckedExpression): Evaluate<Truth> {
  const of = compile(value, checked);
  const kind = checked.typings.get(value)?.type.kind;
  const texts = kind === 'text' || kind === 'choice' ? literalTexts(tests) : null;
  if (texts) {
    const codes = new Set(texts);
    return (frame) => codes.has(of(frame) as string);
  }
  const compiled = tests.map((test) => compileTest(test, checked));
  return (frame) => {
    const found = of(frame);
    let result: Truth = false;
    for (const test of compiled) {
      result = orTruth(result, test(found, frame));
      if (result === true) return true;
    }
    return result;
  };
}

/** The texts of `x in ("a", "b")` or `x in ["a", "b"]`, when all are literals. */
function literalTexts(tests: readonly UnaryTest[]): readonly string[] | null {
  const nodes = tests.flatMap((test): readonly (Node | null)[] => {
    if (test.kind !== 'matches') return [null];
    return test.node.kind === 'list' ? test.node.of : [test.node];
  });
  return nodes.every((node) => node?.kind === 'text') ? nodes.map((node) => (node as { value: string }).value) : null;
}

type Test = (value: Value, frame: Frame) => Truth;

function compileTest(test: UnaryTest, checked: CheckedExpression): Test {
  const compiled = compileBareTest(test, checked);
  if (!readsTested(test)) return compiled;
  const local = checked.localIndexes.get(test) as number;
  return (value, frame) => {
    frame.locals[local] = value;
    return compiled(value, frame);
  };
}

function compileBareTest(test: UnaryTest, checked: CheckedExpression): Test {
  if (test.kind === 'holds') {
    const holds = compile(test.node, checked);
    return (_, frame) => asTruth(holds(frame));
  }
  if (test.kind === 'compares') {
    const to = compile(test.to, checked);
    const { operator } = test;
    return (value, frame) => compareWith(operator, value, to(frame));
  }
  if (test.node.kind === 'range') {
    const range = compile(test.node, checked) as Evaluate<RangeValue>;
    return (value, frame) => inRange(value, range(frame));
  }
  const tested = compile(test.node, checked);
  const { span } = test;
  return (value, frame) => {
    const among = tested(frame);
    meterComparison(value, among, frame, span);
    return matchesTest(value, among);
  };
}

function compileAll(parts: readonly Evaluate[]): Evaluate<Truth> {
  return (frame) => {
    let result: Truth = true;
    for (const part of parts) {
      const value = part(frame);
      if (value === false) return false;
      if (value !== true) result = null;
    }
    return result;
  };
}

function compileAny(parts: readonly Evaluate[]): Evaluate<Truth> {
  return (frame) => {
    let result: Truth = false;
    for (const part of parts) {
      const value = part(frame);
      if (value === true) return true;
      if (value !== false) result = null;
    }
    return result;
  };
}

/** `weight`: how much is evaluated for each item, inner loops aside. */
type CompiledBinding = { readonly source: Evaluate; readonly local: number; readonly weight: number; readonly span: Span };

/** Loops over the bindings, innermost last; `visit` returns false to stop. Unknown when a source is no list. */
function loop(
  bindings: readonly CompiledBinding[],
  depth: number,
  frame: Frame,
  visit: (frame: Frame) => boolean,
): boolean | null {
  const binding = bindings[depth];
  if (!binding) return visit(frame);
  const items = loopItems(binding.source(frame), frame, binding.span);
  if (items === null) return null;
  takeSteps(frame, items.length * binding.weight, binding.span);
  for (const item of items) {
    frame.locals[binding.local] = item;
    const more = loop(bindings, depth + 1, frame, visit);
    if (more !== true) return more;
  }
  return true;
}

const compileBindings = (bindings: readonly Binding[], body: Node, checked: CheckedExpression): readonly CompiledBinding[] =>
  bindings.map((binding, index) => ({
    source: compile(binding.source, checked),
    local: checked.localIndexes.get(binding) as number,
    weight: weightOf(bindings[index + 1]?.source ?? body),
    span: { start: binding.nameSpan.start, end: body.span.end },
  }));

function compileQuantified(
  isSome: boolean,
  bindings: readonly Binding[],
  satisfies: Node,
  checked: CheckedExpression,
): Evaluate<Truth> {
  const compiled = compileBindings(bindings, satisfies, checked);
  const test = compile(satisfies, checked);
  return (frame) => {
    let result: Truth = !isSome;
    const done = loop(compiled, 0, frame, (inner) => {
      const value = test(inner);
      if (value === isSome) {
        result = isSome;
        return false;
      }
      if (value !== !isSome) result = null;
      return true;
    });
    return done === null ? null : result;
  };
}

function compileFor(bindings: readonly Binding[], returns: Node, checked: CheckedExpression): Evaluate {
  const compiled = compileBindings(bindings, returns, checked);
  const body = compile(returns, checked);
  return (frame) => {
    const result: Value[] = [];
    const done = loop(compiled, 0, frame, (inner) => {
      result.push(meterItems(body(inner), inner, returns.span));
      return result.length <= LIMITS.listLength;
    });
    return done === true ? result : null;
  };
}

function compileFilter(node: Extract<Node, { kind: 'filter' }>, checked: CheckedExpression): Evaluate {
  const of = compile(node.of, checked);
  const where = compile(node.where, checked);
  const local = checked.localIndexes.get(node) as number;
  const weight = weightOf(node.where);
  if (checked.typings.get(node.where)?.type.kind === 'number') {
    return (frame) => {
      const list = of(frame);
      return isList(list) ? readIndex(list, where(frame)) : null;
    };
  }
  return (frame) => {
    const list = of(frame);
    if (!isList(list)) return null;
    takeSteps(frame, list.length * weight, node.span);
    return list.filter((item) => {
      frame.locals[local] = item;
      return where(frame) === true;
    });
  };
}

function compileCall(node: Extract<Node, { kind: 'call' }>, checked: CheckedExpression): Evaluate {
  const builtin = findBuiltin(node.name);
  const signature = checked.signatures.get(node);
  if (!builtin || !signature) throw new Error(`unchecked call: ${node.name}`);
  const given = node.of.map((part) => compile(part, checked));
  const only = given[0];
  if (node.name === 'not' && only) {
    return (frame) => {
      const value = only(frame);
      return value === true ? false : value === false ? true : null;
    };
  }
  const { parameters, span } = node;
  return (frame) =>
    callBuiltin(
      builtin,
      signature,
      parameters,
      given.map((part) => part(frame)),
      frame,
      span,
    );
}
