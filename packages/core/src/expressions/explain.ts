import { ARITHMETIC, negateValue } from '../values/arithmetic.ts';
import { andTruth, isList, orTruth, type Truth, type Value } from '../values/value.ts';
import { findBuiltin } from './builtins/registry.ts';
import type { CheckedExpression } from './check.ts';
import { type Frame, takeSteps, withinSteps } from './frame.ts';
import {
  bounded,
  callBuiltin,
  compareWith,
  loopItems,
  matchesTest,
  meterComparison,
  meterItems,
  raise,
  readIndex,
  readPath,
  readTemporalLiteral,
  weightOf,
} from './operators.ts';
import type { Binding, Node, UnaryTest } from './tree.ts';

/** A node with the value it had and the explanations of what it read. Loops keep the first rows they looked at. */
export type Explanation = {
  readonly node: Node;
  readonly value: Value;
  readonly parts: readonly Explanation[];
};

/** Rows of a loop that an explanation keeps. */
const KEPT_ROWS = 20;

/**
 * Evaluates by walking the tree, keeping every value: the plain interpreter beside the compiled closures.
 * All operands of `and` and `or` are evaluated, so that each clause can be shown as holding or not.
 */
export function explainExpression(checked: CheckedExpression, frame: Frame): Explanation {
  const found = withinSteps(frame, '', () => new Interpreter(checked, frame).walk(checked.node));
  return found ?? { node: checked.node, value: null, parts: [] };
}

class Interpreter {
  constructor(
    private readonly checked: CheckedExpression,
    private readonly frame: Frame,
  ) {}

  walk(node: Node): Explanation {
    const made = (value: Value, ...parts: readonly Explanation[]): Explanation => ({ node, value, parts });
    switch (node.kind) {
      case 'null':
        return made(null);
      case 'boolean':
      case 'number':
      case 'text':
        return made(node.value);
      case 'temporal':
        return made(readTemporalLiteral(node.text, this.frame.environment));
      case 'name':
        return made(this.readName(node));
      case 'path': {
        const of = this.walk(node.of);
        return made(meterItems(readPath(of.value, node.name), this.frame, node.span), of);
      }
      case 'negate': {
        const of = this.walk(node.of);
        return made(negateValue(of.value), of);
      }
      case 'arithmetic': {
        const [left, right] = [this.walk(node.left), this.walk(node.right)];
        const value =
          node.operator === '**'
            ? raise(left.value, right.value, this.frame, node.span)
            : bounded(ARITHMETIC[node.operator](left.value, right.value));
        return made(value, left, right);
      }
      case 'compare': {
        const [left, right] = [this.walk(node.left), this.walk(node.right)];
        meterComparison(left.value, right.value, this.frame, node.span);
        return made(compareWith(node.operator, left.value, right.value), left, right);
      }
      case 'between': {
        const [value, low, high] = [this.walk(node.value), this.walk(node.low), this.walk(node.high)];
        const holds = andTruth(compareWith('>=', value.value, low.value), compareWith('<=', value.value, high.value));
        return made(holds, value, low, high);
      }
      case 'in': {
        const value = this.walk(node.value);
        const tests = node.tests.map((test) => this.walkTest(test, value.value));
        return made(tests.map((test) => test.truth).reduce<Truth>(orTruth, false), value, ...tests.map((test) => test.part));
      }
      case 'all':
      case 'any': {
        const parts = node.of.map((part) => this.walk(part));
        const values = parts.map((part) => part.value);
        return made(node.kind === 'all' ? values.reduce<Truth>(andTruth, true) : values.reduce<Truth>(orTruth, false), ...parts);
      }
      case 'if': {
        const test = this.walk(node.test);
        const taken = this.walk(test.value === true ? node.then : node.otherwise);
        return made(taken.value, test, taken);
      }
      case 'quantified':
        return this.walkQuantified(node);
      case 'for': {
        const { rows, complete } = this.walkLoop(node.bindings, node.returns);
        return made(complete ? bounded(rows.map((row) => row.value)) : null, ...rows.slice(0, KEPT_ROWS));
      }
      case 'filter':
        return this.walkFilter(node);
      case 'call':
        return this.walkCall(node);
      case 'list': {
        const parts = node.of.map((part) => this.walk(part));
        return made(
          parts.map((part) => meterItems(part.value, this.frame, node.span)),
          ...parts,
        );
      }
      case 'range': {
        const [low, high] = [this.walk(node.low), this.walk(node.high)];
        const { includesLow, includesHigh } = node;
        return made({ kind: 'range', low: low.value, high: high.value, includesLow, includesHigh }, low, high);
      }
      default:
        return node satisfies never;
    }
  }

  private readName(node: Extract<Node, { kind: 'name' }>): Value {
    const reference = this.checked.references.get(node);
    if (!reference) throw new Error(`unresolved name: ${node.name}`);
    if (reference.kind === 'slot') return this.frame.slots[reference.slot] as Value;
    const item = this.frame.locals[reference.local] as Value;
    return reference.kind === 'local' ? item : readPath(item, node.name);
  }

  private walkTest(test: UnaryTest, value: Value): { readonly truth: Truth; readonly part: Explanation } {
    this.frame.locals[this.checked.localIndexes.get(test) as number] = value;
    const part = this.walk(test.kind === 'compares' ? test.to : test.node);
    if (test.kind === 'holds') return { truth: part.value === true ? true : part.value === false ? false : null, part };
    if (test.kind === 'matches') meterComparison(value, part.value, this.frame, test.span);
    const truth = test.kind === 'compares' ? compareWith(test.operator, value, part.value) : matchesTest(value, part.value);
    return { truth, part };
  }

  /** The body's explanation for every combination of items; `complete` is false when a source was no list. */
  private walkLoop(
    bindings: readonly Binding[],
    body: Node,
  ): { readonly rows: readonly Explanation[]; readonly complete: boolean } {
    const rows: Explanation[] = [];
    const weights = bindings.map((_, index) => weightOf(bindings[index + 1]?.source ?? body));
    const visit = (depth: number): boolean => {
      const binding = bindings[depth];
      if (!binding) {
        const row = this.walk(body);
        meterItems(row.value, this.frame, body.span);
        rows.push(row);
        return true;
      }
      const items = loopItems(this.walk(binding.source).value, this.frame, binding.nameSpan);
      if (items === null) return false;
      takeSteps(this.frame, items.length * (weights[depth] ?? 1), binding.nameSpan);
      const local = this.checked.localIndexes.get(binding) as number;
      return items.every((item) => {
        this.frame.locals[local] = item;
        return visit(depth + 1);
      });
    };
    const complete = visit(0);
    return { rows, complete };
  }

  private walkQuantified(node: Extract<Node, { kind: 'quantified' }>): Explanation {
    const isSome = node.which === 'some';
    const { rows, complete } = this.walkLoop(node.bindings, node.satisfies);
    const truths = rows.map((row) => row.value);
    const decided = truths.includes(isSome);
    const value = decided
      ? isSome
      : !complete
        ? null
        : isSome
          ? truths.reduce<Truth>(orTruth, false)
          : truths.reduce<Truth>(andTruth, true);
    return { node, value, parts: rows.slice(0, KEPT_ROWS) };
  }

  private walkFilter(node: Extract<Node, { kind: 'filter' }>): Explanation {
    const of = this.walk(node.of);
    if (!isList(of.value)) return { node, value: null, parts: [of] };
    if (this.checked.typings.get(node.where)?.type.kind === 'number') {
      const index = this.walk(node.where);
      return { node, value: readIndex(of.value, index.value), parts: [of, index] };
    }
    takeSteps(this.frame, of.value.length * weightOf(node.where), node.span);
    const local = this.checked.localIndexes.get(node) as number;
    const tests = of.value.map((item) => {
      this.frame.locals[local] = item;
      return this.walk(node.where);
    });
    const value = of.value.filter((_, index) => tests[index]?.value === true);
    return { node, value, parts: [of, ...tests.slice(0, KEPT_ROWS)] };
  }

  private walkCall(node: Extract<Node, { kind: 'call' }>): Explanation {
    const builtin = findBuiltin(node.name);
    const signature = this.checked.signatures.get(node);
    if (!builtin || !signature) throw new Error(`unchecked call: ${node.name}`);
    const parts = node.of.map((part) => this.walk(part));
    const given = parts.map((part) => part.value);
    return { node, value: callBuiltin(builtin, signature, node.parameters, given, this.frame, node.span), parts };
  }
}
