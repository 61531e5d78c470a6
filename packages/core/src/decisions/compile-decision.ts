import { type CheckedExpression, checkExpression } from '../expressions/check.ts';
import { compileExpression, type Evaluate } from '../expressions/compile.ts';
import type { CompiledExpression, ExpressionCompiler } from '../expressions/compiler.ts';
import type { Frame } from '../expressions/frame.ts';
import { parseUnaryTests } from '../expressions/parse.ts';
import { printExpression } from '../expressions/print.ts';
import type { Scope } from '../expressions/scope.ts';
import { childrenOf, type Node, withChildren } from '../expressions/tree.ts';
import { listOf, TYPES, type Type, type Typing, typing } from '../expressions/types.ts';
import type { DecisionTable, HitPolicy } from '../model/decision-table.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { ownValue } from '../shared/json.ts';
import { term } from '../shared/terms.ts';
import { findNumbers, sumExact } from '../values/arithmetic.ts';
import { exactInteger } from '../values/exact.ts';
import { type ContextValue, compareValues, equalValues, type Truth, type Value } from '../values/value.ts';

type CompiledRule = {
  readonly matches: readonly (Evaluate<Truth> | null)[];
  readonly then: readonly (CompiledExpression | null)[];
};

/** A decision table, ready to decide. */
export type CompiledDecision = {
  readonly table: DecisionTable;
  readonly inputs: readonly CompiledExpression[];
  readonly rules: readonly CompiledRule[];
  readonly defaults: readonly (CompiledExpression | null)[];
  readonly evaluate: Evaluate;
  /** Every checked expression of the table, for where-used and dependency order. */
  readonly reads: readonly CheckedExpression[];
};

/** What a decision came to. */
export type Decision = {
  readonly value: Value;
  /** Indexes of the rules that match. */
  readonly matched: readonly number[];
  /** A hit policy that the matching rules break: more than one under U, differing outputs under A. The value is then null. */
  readonly violation: 'not-unique' | 'outputs-differ' | null;
};

const OUTPUT_TYPES: Readonly<Record<DecisionTable['outputs'][number]['type'], Type>> = {
  text: TYPES.text,
  number: TYPES.number,
  'yes-no': TYPES.boolean,
  date: TYPES.date,
  time: TYPES.time,
  'date-time': TYPES.dateTime,
};

const isCollecting = (table: DecisionTable): boolean =>
  table.hitPolicy === 'R' || table.hitPolicy === 'O' || table.hitPolicy === 'C';

/** The type of a decision's result: its output, a row of outputs where there are several, a list of either, or a total. */
export function typeOfDecision(table: DecisionTable): Typing {
  const [only] = table.outputs;
  if (table.hitPolicy === 'C#') return typing(TYPES.number, false);
  const entries = table.outputs.map((output): [string, Typing] => [output.key, typing(outputType(output), true)]);
  const one: Type =
    only && table.outputs.length === 1 ? outputType(only) : { kind: 'context', entries: Object.fromEntries(entries) };
  return isCollecting(table) ? typing(listOf(one, true), false) : typing(one, true);
}

const outputType = (output: DecisionTable['outputs'][number]): Type =>
  output.type === 'text' && output.values.length > 0
    ? { kind: 'choice', options: output.values.map((code) => ({ code, label: code })) }
    : OUTPUT_TYPES[output.type];

/**
 * Compiles a decision table (OMG DMN 1.3, clause 8). Diagnostics go to the compiler, each under its cell's path; those of
 * the hit policy have codes `decision/…`.
 */
export function compileDecision(
  table: DecisionTable,
  path: string,
  scope: Scope,
  compiler: ExpressionCompiler,
): CompiledDecision {
  if (compiler.compiling === 'as-needed') return new DecisionAsNeeded(table, () => compileNow(table, path, scope, compiler));
  compiler.diagnostics.push(...checkPolicy(table, path));
  return compileNow(table, path, scope, compiler);
}

class DecisionAsNeeded implements CompiledDecision {
  private made: CompiledDecision | null = null;

  constructor(
    readonly table: DecisionTable,
    private readonly make: () => CompiledDecision,
  ) {}

  readonly evaluate: Evaluate = (frame) => this.compiled().evaluate(frame);

  get inputs() {
    return this.compiled().inputs;
  }
  get rules() {
    return this.compiled().rules;
  }
  get defaults() {
    return this.compiled().defaults;
  }
  get reads() {
    return this.compiled().reads;
  }

  private compiled(): CompiledDecision {
    this.made ??= this.make();
    return this.made;
  }
}

function compileNow(table: DecisionTable, path: string, scope: Scope, compiler: ExpressionCompiler): CompiledDecision {
  const inputs = table.inputs.map((input) => compiler.compile(input.expression, `${path}.inputs.${input.key}.expression`, scope));
  const reads: CheckedExpression[] = inputs.flatMap((input) => (input.checked ? [input.checked] : []));
  const compileThen = (text: string, cellPath: string, type: Type | undefined): CompiledExpression => {
    const compiled = compiler.compile(text, cellPath, scope, type);
    if (compiled.checked) reads.push(compiled.checked);
    return compiled;
  };
  const typeAt = (column: number): Type | undefined => {
    const output = table.outputs[column];
    return output && outputType(output);
  };
  // What a count falls back to is a number, whatever is counted.
  const defaultType = (column: number): Type | undefined => (table.hitPolicy === 'C#' ? TYPES.number : typeAt(column));
  const defaults = table.outputs.map((output, index) =>
    output.default === null ? null : compileThen(output.default, `${path}.outputs.${output.key}.default`, defaultType(index)),
  );
  const rules = table.rules.map(
    (rule): CompiledRule => ({
      matches: table.inputs.map(({ key }, column) => {
        const [text, input] = [ownValue(rule.when, key) ?? '-', inputs[column]];
        const cell = input?.checked
          ? rememberedCell(text, `${path}.rules.${rule.key}.when.${key}`, input.checked.node, scope, compiler)
          : null;
        if (cell) reads.push(cell.checked);
        return cell?.evaluate ?? null;
      }),
      then: table.outputs.map(({ key }, column) => {
        const text = ownValue(rule.then, key);
        return text === undefined
          ? (defaults[column] ?? null)
          : compileThen(text, `${path}.rules.${rule.key}.then.${key}`, typeAt(column));
      }),
    }),
  );
  const parts = { table, inputs, rules, defaults, reads };
  return { ...parts, evaluate: (frame) => decide(parts, frame).value };
}

/** What each aggregation can be made of (OMG DMN 1.3, 8.2.10: sums of numbers, the least and greatest of what has an order). */
const AGGREGATED: Partial<Record<HitPolicy, readonly DecisionTable['outputs'][number]['type'][]>> = {
  'C+': ['number'],
  'C<': ['number', 'text', 'date', 'time', 'date-time'],
  'C>': ['number', 'text', 'date', 'time', 'date-time'],
};

function checkPolicy(table: DecisionTable, path: string): readonly Diagnostic[] {
  const { hitPolicy, outputs, name } = table;
  const found: Diagnostic[] = [];
  if (['C+', 'C<', 'C>', 'C#'].includes(hitPolicy) && outputs.length > 1)
    found.push(diagnostic('decision/one-output', `${path}.outputs`, { table: name, policy: hitPolicy }));
  const types = AGGREGATED[hitPolicy];
  outputs.forEach((output) => {
    if (types && !types.includes(output.type)) {
      const params = {
        table: name,
        policy: hitPolicy,
        output: output.name,
        types: types.map((type) => term(type === 'yes-no' ? 'type/boolean' : `type/${type}`)),
      };
      found.push(diagnostic('decision/aggregate', `${path}.outputs.${output.key}.type`, params));
    }
  });
  for (const rule of table.rules) {
    for (const output of outputs) {
      if (output.default !== null || Object.hasOwn(rule.then, output.key)) continue;
      const params = { table: name, rule: rule.key, output: output.name };
      found.push(diagnostic('decision/no-output', `${path}.rules.${rule.key}.then.${output.key}`, params));
    }
  }
  if ((hitPolicy === 'P' || hitPolicy === 'O') && outputs.every((output) => output.values.length === 0))
    found.push(diagnostic('decision/no-priorities', `${path}.outputs`, { table: name, policy: hitPolicy }));
  return found;
}

type Cell = { readonly checked: CheckedExpression; readonly evaluate: Evaluate<Truth> };

type MadeCell = { readonly value: Cell | null; readonly diagnostics: readonly Diagnostic[] };

/** Of a large table one cell is changed at a time: the others are as they were made before. */
function rememberedCell(text: string, path: string, input: Node, scope: Scope, compiler: ExpressionCompiler): Cell | null {
  if (text.trim() === '-') return null;
  return compiler.remember(scope, `${path}\n${text}\n${printExpression(input)}`, () => compileCell(text, path, input, scope));
}

/** A cell as a condition on its input; null where it takes everything (`-`) or has errors. */
function compileCell(text: string, path: string, input: Node, scope: Scope): MadeCell {
  const refused = (found: readonly Diagnostic[]): MadeCell => ({
    value: null,
    diagnostics: found.map((one) => ({ ...one, path })),
  });
  const parsed = parseUnaryTests(text.trim());
  if (!parsed.ok) return refused(parsed.diagnostics);
  if (parsed.value === null) return refused([]);
  const { tests, negated } = parsed.value;
  const checked = checkExpression({ kind: 'in', value: freshCopy(input), tests, span: input.span }, scope);
  if (checked.diagnostics.length > 0) return refused(checked.diagnostics);
  const test = compileExpression(checked) as Evaluate<Truth>;
  const opposite: Evaluate<Truth> = (frame) => {
    const value = test(frame);
    return value === null ? null : !value;
  };
  return { value: { checked, evaluate: negated ? opposite : test }, diagnostics: [] };
}

/** Nodes are told apart by identity, so a cell works on its own copy of the input. */
const freshCopy = (node: Node): Node => withChildren({ ...node }, childrenOf(node).map(freshCopy));

type DecisionParts = Omit<CompiledDecision, 'evaluate'>;

/** Decides, with what matched and why there may be no value. */
export function decide(decision: DecisionParts, frame: Frame): Decision {
  const matched: number[] = [];
  const stopsAtFirst = decision.table.hitPolicy === 'F';
  for (const [index, rule] of decision.rules.entries()) {
    if (!rule.matches.every((test) => test === null || test(frame) === true)) continue;
    matched.push(index);
    if (stopsAtFirst) break;
  }
  if (matched.length === 0) return { value: emptyResult(decision, frame), matched, violation: null };
  const outputs = matched.map((index) => (decision.rules[index] as CompiledRule).then.map((one) => one?.evaluate(frame) ?? null));
  return { ...applyPolicy(decision.table, outputs), matched };
}

function emptyResult(decision: DecisionParts, frame: Frame): Value {
  const { table, defaults } = decision;
  if (defaults.every((one) => one === null)) return table.hitPolicy === 'C#' ? exactInteger(0) : isCollecting(table) ? [] : null;
  const values = defaults.map((one) => (one ? one.evaluate(frame) : null));
  const value = asResult(table, values);
  return isCollecting(table) ? [value] : value;
}

function asResult(table: DecisionTable, outputs: readonly Value[]): Value {
  if (table.outputs.length === 1) return outputs[0] ?? null;
  const entries = Object.fromEntries(table.outputs.map((output, index) => [output.key, outputs[index] ?? null]));
  return { kind: 'context', id: null, entries } satisfies ContextValue;
}

function applyPolicy(table: DecisionTable, outputs: readonly (readonly Value[])[]): Omit<Decision, 'matched'> {
  const results = outputs.map((one) => asResult(table, one));
  const first = results[0] ?? null;
  const plain = (value: Value): Omit<Decision, 'matched'> => ({ value, violation: null });
  switch (table.hitPolicy) {
    case 'U':
      return results.length > 1 ? { value: null, violation: 'not-unique' } : plain(first);
    case 'A':
      return results.every((result) => equalValues(result, first) === true)
        ? plain(first)
        : { value: null, violation: 'outputs-differ' };
    case 'F':
      return plain(first);
    case 'P':
      return plain(asResult(table, sortByPriority(table, outputs)[0] ?? []));
    case 'O':
      return plain(sortByPriority(table, outputs).map((one) => asResult(table, one)));
    case 'R':
    case 'C':
      return plain(results);
    case 'C#':
      return plain(exactInteger(results.length));
    case 'C+':
    case 'C<':
    case 'C>':
      return plain(aggregate(table.hitPolicy, results));
    default:
      return table.hitPolicy satisfies never;
  }
}

/** By the order of the first output's allowed values, then the second's, and so on; rule order among equals. */
function sortByPriority(table: DecisionTable, outputs: readonly (readonly Value[])[]): readonly (readonly Value[])[] {
  const rank = (values: readonly string[], value: Value): number => {
    const index = values.indexOf(value as string);
    return index < 0 ? values.length : index;
  };
  return [...outputs].sort((a, b) => {
    for (const [index, output] of table.outputs.entries()) {
      const difference = rank(output.values, a[index] ?? null) - rank(output.values, b[index] ?? null);
      if (difference !== 0) return difference;
    }
    return 0;
  });
}

/** Null where an output is empty, and where the outputs have no order or can't be added. */
function aggregate(policy: 'C+' | 'C<' | 'C>', results: readonly Value[]): Value {
  if (policy === 'C+') {
    const numbers = findNumbers(results);
    return numbers && sumExact(numbers);
  }
  const sign = policy === 'C<' ? 1 : -1;
  let best: Value = results[0] ?? null;
  for (const result of results) {
    const order = compareValues(result, best);
    if (order === null) return null;
    if (order * sign < 0) best = result;
  }
  return best;
}
