import type { Environment } from '../expressions/builtins/builtin.ts';
import { checkExpression } from '../expressions/check.ts';
import { ExpressionCompiler } from '../expressions/compiler.ts';
import { makeFrame } from '../expressions/frame.ts';
import { parseExpression } from '../expressions/parse.ts';
import type { Scope, ScopeEntry } from '../expressions/scope.ts';
import { TYPES, type Typing, typing } from '../expressions/types.ts';
import type { DecisionTable } from '../model/decision-table.ts';
import type { Truth, Value } from '../values/value.ts';
import { compileDecision, type Decision, decide } from './compile-decision.ts';

/** How a row of inputs stands in a table: each rule's tests by input, and what the table comes to. */
export type TriedDecision = {
  readonly rules: readonly { readonly cells: readonly Truth[]; readonly fires: boolean }[];
  readonly decision: Decision;
};

/** The types of a table's inputs; null where an input has errors. */
export function typingsOfInputs({ inputs }: Pick<DecisionTable, 'inputs'>, scope: Scope): readonly (Typing | null)[] {
  return inputs.map(({ expression }) => {
    const parsed = parseExpression(expression);
    const checked = parsed.ok ? checkExpression(parsed.value, scope) : null;
    return checked && checked.diagnostics.length === 0 ? checked.typing : null;
  });
}

/**
 * Tries a table on a row of inputs, whatever its input expressions would yield: the table is compiled with names in their place
 * that stand for what is given. Outputs read the record, whose values are the slots.
 */
export function tryDecision(
  table: DecisionTable,
  given: readonly Value[],
  scope: Scope,
  slots: readonly Value[],
  environment: Environment,
): TriedDecision {
  const typings = typingsOfInputs(table, scope);
  const entries = new Map<string, ScopeEntry>(scope.entries);
  const names = table.inputs.map((_, index) => {
    let name = `given${index + 1}`;
    while (scope.entries.has(name)) name += '_';
    entries.set(name, { typing: typing(typings[index]?.type ?? TYPES.any, true), slot: slots.length + index });
    return name;
  });
  const inputs = table.inputs.map((input, index) => ({ ...input, expression: names[index] ?? input.expression }));
  const compiled = compileDecision({ ...table, inputs }, 'tried', { entries }, new ExpressionCompiler());
  const frame = makeFrame([...slots, ...given], environment);
  const rules = compiled.rules.map(({ matches }) => {
    const cells = matches.map((test): Truth => (test ? test(frame) : true));
    return { cells, fires: cells.every((truth) => truth === true) };
  });
  return { rules, decision: decide(compiled, frame) };
}
