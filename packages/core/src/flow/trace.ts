import type { CompiledCondition } from '../expressions/compiler.ts';
import { type Explanation, explainExpression } from '../expressions/explain.ts';
import { type Frame, makeFrame } from '../expressions/frame.ts';
import type { Truth } from '../values/value.ts';
import type { Outcome, TraceStep } from './events.ts';

/** A condition as it stood: its truth, and each node's value where there is an expression. */
export type Reason = { readonly truth: Truth; readonly explanation: Explanation | null };

/** Explains a condition as it stands in a frame. "Always" is true; a condition with errors is unknown. */
export function explainCondition({ expression }: CompiledCondition, { slots, environment }: Frame): Reason {
  if (!expression?.checked) return { truth: expression ? null : true, explanation: null };
  const explanation = explainExpression(expression.checked, makeFrame(slots, environment));
  const truth = explanation.value === true ? true : explanation.value === false ? false : null;
  return { truth, explanation };
}

/**
 * Notes what is decided on the way, in the order in which it is decided, where reasons are asked for: each condition is
 * explained as it stood at that moment. What explains is the decision itself, never a second one.
 */
export class Tracer {
  readonly steps: TraceStep[] = [];

  constructor(private readonly withReasons: boolean) {}

  /** `condition` is null for what is done when nothing else is: `otherwise`. */
  note(of: Pick<TraceStep, 'kind' | 'owner' | 'key'>, condition: CompiledCondition | null, outcome: Outcome, frame: Frame): void {
    if (!this.withReasons) return;
    const reason = condition ? explainCondition(condition, frame) : { truth: outcome === 'taken' || null, explanation: null };
    this.steps.push({ ...of, ...reason, outcome });
  }
}
