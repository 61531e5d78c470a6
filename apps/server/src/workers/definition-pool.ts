import type { Diagnostic } from '@ypomet/core';
import { ProblemError, toDetails } from '../problem.ts';
import type { DefinitionTasks, Outcome } from './definition-tasks.ts';
import type { Job } from './definition-worker.ts';
import { makeThreads, runWithin } from './threads.ts';

type ValueOf<T extends keyof DefinitionTasks> = ReturnType<DefinitionTasks[T]> extends Outcome<infer V> ? V : never;

const SECONDS = 20;
const LIMITS = { threads: 2, waiting: 30, memoryMb: 1024 };

/**
 * Reads, edits and compiles definitions in threads beside the request loop. Each task is bounded in time and memory; more
 * than thirty that wait are refused with `server/busy`.
 */
export class DefinitionPool {
  private readonly threads = makeThreads<Job, Outcome<unknown>>('definition-worker', LIMITS);

  /** Runs a task. Its refusals are thrown as problems. */
  async run<T extends keyof DefinitionTasks>(task: T, ...given: Parameters<DefinitionTasks[T]>): Promise<ValueOf<T>> {
    const outcome = await runWithin(this.threads, { task, given }, SECONDS);
    if (outcome.ok) return outcome.value as ValueOf<T>;
    const { code, diagnostics, detail } = outcome;
    throw new ProblemError(code, {
      details: toDetails(diagnostics as readonly Diagnostic[]),
      ...(detail ? { detail, path: 'key' } : {}),
    });
  }

  close(): Promise<void> {
    return this.threads.destroy();
  }
}
