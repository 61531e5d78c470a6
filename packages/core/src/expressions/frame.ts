import type { Span } from '../shared/diagnostic.ts';
import type { Value } from '../values/value.ts';
import type { Environment } from './builtins/builtin.ts';
import { LIMITS } from './tree.ts';

/** An expression that was given up because it took too many steps: where it stands, and the part of it that took them. */
export type Overrun = { readonly path: string; readonly span: Span };

/** What an evaluation reads: the values of the scope's slots, the loop items, and the world outside. */
export type Frame = {
  slots: readonly Value[];
  readonly locals: Value[];
  readonly environment: Environment;
  /** Steps left before an expression is given up as unknown. */
  steps: number;
  /** Steps that each expression may take; null where all expressions of the frame share what was left at its beginning. */
  readonly stepsEach: number | null;
  /** Expressions that were given up, each time. Whoever decides by this frame refuses while there are any. */
  readonly overruns: Overrun[];
};

/**
 * A fresh frame over slots; what is given up in it is told to `overruns`. `sharedSteps`: the steps that all expressions which
 * are evaluated in it may take together; without it each may take `LIMITS.steps`.
 */
export const makeFrame = (
  slots: readonly Value[],
  environment: Environment,
  overruns: Overrun[] = [],
  sharedSteps: number | null = null,
): Frame => ({
  slots,
  locals: [],
  environment,
  steps: sharedSteps ?? LIMITS.steps,
  stepsEach: sharedSteps === null ? LIMITS.steps : null,
  overruns,
});

/** Thrown inside loops when the step limit is spent; whoever starts an evaluation turns it into null. */
export class StepLimit extends Error {
  constructor(readonly span: Span) {
    super('step limit');
  }
}

/** Counts steps against an expression's limit. `span`: the loop or call that takes them. */
export function takeSteps(frame: Frame, count: number, span: Span): void {
  frame.steps -= count;
  if (frame.steps < 0) throw new StepLimit(span);
}

/** Runs an evaluation within its step limit: what takes too long is unknown, and the frame says so. */
export function withinSteps<T>(frame: Frame, path: string, run: () => T): T | null {
  try {
    return run();
  } catch (error) {
    if (!(error instanceof StepLimit)) throw error;
    if (frame.overruns.length < 20) frame.overruns.push({ path, span: error.span });
    return null;
  } finally {
    if (frame.stepsEach !== null) frame.steps = frame.stepsEach;
  }
}
