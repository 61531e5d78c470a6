import { fileURLToPath } from 'node:url';
import { Piscina } from 'piscina';
import { ProblemError } from '../problem.ts';

const isSource = import.meta.url.endsWith('.ts');
const IDLE_MS = 30_000;

export type ThreadLimits = { readonly threads: number; readonly waiting: number; readonly memoryMb: number };

/** Threads beside the request loop that run a worker of this folder, by its name; bounded in number, queue and memory. */
export const makeThreads = <Job, Result>(worker: string, { threads, waiting, memoryMb }: ThreadLimits): Piscina<Job, Result> =>
  new Piscina<Job, Result>({
    filename: fileURLToPath(new URL(`./${worker}.${isSource ? 'ts' : 'js'}`, import.meta.url)),
    minThreads: 0,
    maxThreads: threads,
    idleTimeout: IDLE_MS,
    maxQueue: waiting,
    resourceLimits: { maxOldGenerationSizeMb: memoryMb },
    // From source, the thread reads TypeScript as its process does.
    execArgv: isSource ? ['--import', 'tsx'] : [],
    recordTiming: false,
  });

/** Runs a job within a time. Code `server/busy` where it takes longer, or too many wait. */
export const runWithin = <Job, Result>(threads: Piscina<Job, Result>, job: Job, seconds: number): Promise<Result> =>
  threads.run(job, { signal: AbortSignal.timeout(seconds * 1000) }).catch((error: Error) => {
    if (error.name === 'AbortError' || error.name === 'TimeoutError' || /queue/i.test(error.message))
      throw new ProblemError('server/busy');
    throw error;
  });
