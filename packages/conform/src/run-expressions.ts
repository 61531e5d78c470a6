import {
  checkExpression,
  compileExpression,
  decide,
  explainExpression,
  type Frame,
  makeFrame,
  makeScope,
  parseExpression,
  type Scope,
  type Value,
} from '@ypomet/core';
import { compileDecision } from '@ypomet/core/decisions/compile-decision';
import { ExpressionCompiler } from '@ypomet/core/expressions/compiler';
import type { ConformanceFile, DecisionCase, ExpressionCase, NameType, TypedValue } from './format.ts';
import type { Clock, Outcome } from './outcome.ts';
import { readNameType, readTypedValue, showTyped } from './typed-values.ts';

type Named = { readonly names: Readonly<Record<string, NameType>>; readonly values: Readonly<Record<string, TypedValue>> };

function place(file: Named, own: Named, clock: Clock): { readonly scope: Scope; readonly frame: () => Frame } {
  const types = Object.entries({ ...file.names, ...own.names });
  const values: Readonly<Record<string, TypedValue>> = { ...file.values, ...own.values };
  for (const name of Object.keys(values)) {
    if (!types.some(([known]) => known === name)) throw new Error(`the value "${name}" has no type in "names"`);
  }
  const scope = makeScope(Object.fromEntries(types.map(([name, type]) => [name, readNameType(type)])));
  const slots = types.map(([name]) => readTypedValue(values[name] ?? null, clock.zone));
  return { scope, frame: () => makeFrame(slots, clock) };
}

/** Runs an expression by closures and by the interpreter that explains; both must come to what is expected. */
export function runExpression(one: ExpressionCase, file: ConformanceFile, clock: Clock): Outcome {
  const { scope, frame } = place(file, one, clock);
  const title = one.name ? `${one.name}: ${one.expression}` : one.expression;
  const expected =
    one.refused === undefined ? showTyped(readTypedValue(one.expect ?? null, clock.zone)) : `refused: ${one.refused}`;
  const parsed = parseExpression(one.expression);
  const checked = parsed.ok ? checkExpression(parsed.value, scope) : null;
  const [diagnostic] = parsed.ok ? (checked?.diagnostics ?? []) : parsed.diagnostics;
  if (diagnostic || !checked) return { case: title, expected, found: `refused: ${diagnostic?.code}` };
  const compiled = showTyped(compileExpression(checked)(frame()));
  const explained = showTyped(explainExpression(checked, frame()).value);
  const found = compiled === explained ? compiled : `${compiled}, explained as ${explained}`;
  return { case: title, expected, found };
}

/** Decides one sample of a decision table. */
export function runDecision(one: DecisionCase, at: number, file: ConformanceFile, clock: Clock): Outcome {
  const sample = one.cases[at] as DecisionCase['cases'][number];
  const { scope, frame } = place(file, { names: one.names, values: sample.values }, clock);
  const compiler = new ExpressionCompiler();
  const compiled = compileDecision(one.table, 'table', scope, compiler);
  const title = `${one.table.name} for ${JSON.stringify(sample.values)}`;
  const [diagnostic] = compiler.diagnostics;
  const decision = diagnostic ? null : decide(compiled, frame());
  const parts = (value: Value, matched: readonly number[], violation: string | null): string =>
    [
      sample.expect === undefined ? [] : [showTyped(value)],
      sample.matched === undefined ? [] : [`by rules ${matched.join(', ') || 'none'}`],
      sample.violation === undefined && violation === null ? [] : [violation ?? 'no violation'],
    ]
      .flat()
      .join('; ');
  const expected = parts(readTypedValue(sample.expect ?? null, clock.zone), sample.matched ?? [], sample.violation ?? null);
  const found = decision
    ? parts(
        decision.value,
        decision.matched.map((index) => index + 1),
        decision.violation,
      )
    : `refused: ${diagnostic?.path}: ${diagnostic?.code}`;
  return { case: title, expected, found };
}
