import type { Value } from '../values/value.ts';
import type { Environment } from './builtins/builtin.ts';
import { LIMITS } from './tree.ts';

/** What an evaluation reads: the values of the scope's slots, the loop items, and the world outside. */
export type Frame = {
  slots: readonly Value[];
  readonly locals: Value[];
  readonly environment: Environment;
  /** Steps left before an expression is given up as unknown. */
  steps: number;
};

/** A fresh frame over slots. */
export const makeFrame = (slots: readonly Value[], environment: Environment): Frame => ({
  slots,
  locals: [],
  environment,
  steps: LIMITS.steps,
});

/** Thrown inside loops when the step limit is spent; whoever starts an evaluation turns it into null. */
export class StepLimit extends Error {}

export function takeSteps(frame: Frame, count: number): void {
  frame.steps -= count;
  if (frame.steps < 0) throw new StepLimit();
}

/** Runs an evaluation within its step limit: what takes too long is unknown. */
export function withinSteps<T>(frame: Frame, run: () => T): T | null {
  try {
    return run();
  } catch (error) {
    if (error instanceof StepLimit) return null;
    throw error;
  } finally {
    frame.steps = LIMITS.steps;
  }
}
