import { fileURLToPath } from 'node:url';
import type { Diagnostic } from '@ypomet/core';
import { Piscina } from 'piscina';
import { ProblemError, toDetails } from '../problem.ts';
import type { DefinitionTasks, Outcome } from './definition-tasks.ts';
import type { Job } from './definition-worker.ts';

type ValueOf<T extends keyof DefinitionTasks> = ReturnType<DefinitionTasks[T]> extends Outcome<infer V> ? V : never;

const SECONDS = 20;
const MAX_WAITING = 30;
const isSource = import.meta.url.endsWith('.ts');
const worker = fileURLToPath(new URL(isSource ? './definition-worker.ts' : './definition-worker.js', import.meta.url));

/**
 * Reads, edits and compiles definitions in threads beside the request loop. Each task is bounded in time and memory; more
 * than thirty that wait are refused with `server/busy`.
 */
export class DefinitionPool {
  private readonly pool = new Piscina<Job, Outcome<unknown>>({
    filename: worker,
    minThreads: 0,
    maxThreads: 2,
    idleTimeout: 30_000,
    maxQueue: MAX_WAITING,
    resourceLimits: { maxOldGenerationSizeMb: 1024 },
    // From source, the thread reads TypeScript as its process does.
    execArgv: isSource ? ['--import', 'tsx'] : [],
    recordTiming: false,
  });

  /** Runs a task. Its refusals are thrown as problems. */
  async run<T extends keyof DefinitionTasks>(task: T, ...given: Parameters<DefinitionTasks[T]>): Promise<ValueOf<T>> {
    const outcome = await this.pool
      .run({ task, given }, { signal: AbortSignal.timeout(SECONDS * 1000) })
      .catch((error: Error) => {
        if (error.name === 'AbortError' || error.name === 'TimeoutError' || /queue/i.test(error.message))
          throw new ProblemError('server/busy');
        throw error;
      });
    if (outcome.ok) return outcome.value as ValueOf<T>;
    const { code, diagnostics, detail } = outcome;
    throw new ProblemError(code, {
      details: toDetails(diagnostics as readonly Diagnostic[]),
      ...(detail ? { detail, path: 'key' } : {}),
    });
  }

  close(): Promise<void> {
    return this.pool.destroy();
  }
}
