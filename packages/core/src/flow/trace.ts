import type { CompiledCondition } from '../expressions/compiler.ts';
import { explainExpression } from '../expressions/explain.ts';
import { type Frame, makeFrame } from '../expressions/frame.ts';
import type { Truth } from '../values/value.ts';
import type { Outcome, TraceStep } from './events.ts';

/**
 * Notes what is decided on the way, in the order in which it is decided, where reasons are asked for: each condition is
 * explained as it stood at that moment. What explains is the decision itself, never a second one.
 */
export class Tracer {
  readonly steps: TraceStep[] = [];

  constructor(private readonly withReasons: boolean) {}

  /** Whether a condition holds; what isn't tried is looked at only for its reasons. */
  test(condition: CompiledCondition, frame: Frame, isTried = true): Truth {
    return isTried || this.withReasons ? condition.holds(frame) : null;
  }

  note(
    of: Pick<TraceStep, 'kind' | 'owner' | 'key'>,
    condition: CompiledCondition | null,
    truth: Truth,
    outcome: Outcome,
    frame: Frame,
  ): void {
    if (!this.withReasons) return;
    const checked = condition?.expression?.checked;
    const explanation = checked ? explainExpression(checked, makeFrame(frame.slots, frame.environment)) : null;
    this.steps.push({ ...of, truth, outcome, explanation });
  }
}
