import { EventEmitter } from 'node:events';
import { setTimeout as delay } from 'node:timers/promises';
import type { FastifyBaseLogger } from 'fastify';
import { Logger, type Runner, run, type Task, type TaskList, type WorkerEvents, type WorkerPool } from 'graphile-worker';
import type pg from 'pg';
import { openPool, PATIENCE } from '../db/database.ts';
import { type Notice, QUEUE_NOTICES } from '../modules/deliveries/tell-waiting.ts';
import { RAISE_LOST_OPENINGS } from '../modules/records/pending-follow-ups.ts';

/** In batches, even of one, what a job came to is tried again when PostgreSQL is away, and a stop waits for it. */
const CAREFUL = { worker: { completeJobBatchDelay: 0, failJobBatchDelay: 0, gracefulShutdownAbortTimeout: 2000 } } as const;
/** Jobs at once. An outlet has two at most and nearly all of a job is waiting, so thirty outlets that hang hold up no others. */
const CONCURRENCY = 64;

/**
 * Whoever holds jobs keeps a lock for as long as it lives: a holder whose lock is free is gone, and what it held is freed at
 * once. The first number keeps these locks apart from all others.
 */
const HOLDERS = 7_045_292;
const HOLD = `select pg_advisory_lock(${HOLDERS}, hashtext($1))`;
const RELEASE_STALE = `with held as (
    select distinct locked_by from graphile_worker._private_jobs where locked_by is not null
    union select distinct locked_by from graphile_worker._private_job_queues where locked_by is not null
  ), gone as (
    select locked_by, pg_try_advisory_xact_lock(${HOLDERS}, hashtext(locked_by)) as is_gone from held
  )
  select graphile_worker.force_unlock_workers(array(select locked_by from gone where is_gone))`;
/**
 * Jobs that this process holds and doesn't run: what became of one could not be written when it ended, because PostgreSQL was
 * away. They are freed, and so are the queues of such jobs. One that was taken a moment ago is only about to be run.
 */
export const RELEASE_IDLE = `with idle as (
    update graphile_worker._private_jobs set locked_at = null, locked_by = null
    where locked_by = any($1::text[]) and id <> all($2::bigint[]) and locked_at < now() - interval '5 seconds' returning id
  )
  update graphile_worker._private_job_queues q set locked_at = null, locked_by = null
  where q.locked_by = any($1::text[]) and q.locked_at < now() - interval '5 seconds' and not exists (
    select 1 from graphile_worker._private_jobs j where j.job_queue_id = q.id and j.id = any($2::bigint[]))`;
/**
 * A delivery whose last attempt was cut off (its process was killed) has a job that never runs again, or none: it waits for
 * a person like any other that could not be sent.
 */
export const RAISE_LOST = `update deliveries d set status = 'waiting', fault = '{"code":"cut-off","params":{}}'
  where d.status = 'queued' and d.created_at < now() - interval '1 minute' and coalesce(d.next_at, d.created_at) < now() - interval '1 minute'
  and not exists (
    select 1 from graphile_worker.jobs j where j.key = d.id::text and (j.attempts < j.max_attempts or j.locked_at is not null))`;
const STOP_WITHIN_MS = 10_000;

export type Queue = { readonly isReady: () => boolean; readonly stop: () => Promise<void> };

/** Jobs by their names: what each does with what it was queued with. Each is bounded in time, and may be run twice. */
export type Jobs = {
  /** `signal`: the process is to stop. */
  readonly deliver: (delivery: string, signal?: AbortSignal) => Promise<void>;
  /** Opens the follow-ups that are pending of a record. */
  readonly open: (record: string) => Promise<void>;
  /** Tells whoever answers for a workflow that deliveries wait. */
  readonly tell: (notice: Notice) => Promise<void>;
};

/**
 * Handles shutdowns of a pool of workers that fail. When PostgreSQL is away the pool shuts itself down and drops the promise, which
 * rejects if its connections can't be ended cleanly; a rejection that nobody handles would end the process. That the pool ended
 * is known by its own promise all the same.
 */
export function handleFailedShutdowns(
  pool: Pick<WorkerPool, 'gracefulShutdown' | 'forcefulShutdown'>,
  log: Pick<FastifyBaseLogger, 'warn'>,
): void {
  const handled = <T>(ending: T): T => {
    Promise.resolve(ending).catch((error: Error) =>
      log.warn({ message: error.message }, 'the queue’s workers couldn’t be ended cleanly'),
    );
    return ending;
  };
  const gracefully = pool.gracefulShutdown.bind(pool);
  const forcefully = pool.forcefulShutdown.bind(pool);
  pool.gracefulShutdown = (message) => handled(gracefully(message));
  pool.forcefulShutdown = (message) => handled(forcefully(message));
}

/**
 * Runs queued jobs in this process. Any number of processes may: each job is taken by one. A job that fails because
 * PostgreSQL was away comes again after growing pauses; what a delivery came to is the job's own affair.
 */
export async function startQueue(url: string, jobs: Jobs, log: FastifyBaseLogger): Promise<Queue> {
  /** Ids of the jobs that are being run here. */
  const running = new Set<string>();
  const task =
    <T>(run: (payload: T, signal: AbortSignal | undefined) => Promise<void>): Task =>
    async (payload, { job, abortSignal }) => {
      running.add(job.id);
      try {
        await run(payload as T, abortSignal);
      } finally {
        running.delete(job.id);
      }
    };
  const taskList: TaskList = {
    deliver: task<{ readonly delivery: string }>(({ delivery }, signal) => jobs.deliver(delivery, signal)),
    tell: task<Notice>((notice) => jobs.tell(notice)),
    open: task<{ readonly record: string }>(({ record }) => jobs.open(record)),
  };
  const logger = new Logger(() => (level, message) => {
    if (level === 'error') log.error({ queue: message }, 'queue');
    else log.debug({ queue: message }, 'queue');
  });
  // Connections of its own: a busy queue takes none from requests, nor the other way round.
  const pool = openPool(url, 'ypomet queue', 8, PATIENCE);
  const holders: string[] = [];
  let holding: pg.PoolClient | null = null;
  const events: WorkerEvents = new EventEmitter();
  events.on('pool:create', ({ workerPool }) => {
    holders.push(workerPool.id);
    handleFailedShutdowns(workerPool, log);
  });
  /** Says that this process lives, under the names by which its jobs are held. */
  const hold = async (): Promise<void> => {
    holding?.release(true);
    const client = await pool.connect();
    holding = client;
    client.once('error', () => {
      if (holding === client) holding = null;
    });
    for (const holder of holders) await client.query(HOLD, [holder]);
  };
  const start = (): Promise<Runner> =>
    run({
      events,
      pgPool: pool,
      taskList,
      logger,
      concurrency: CONCURRENCY,
      pollInterval: 1000,
      noHandleSignals: true,
      preset: CAREFUL,
    });
  const begin = async (): Promise<Runner> => {
    // What we held when PostgreSQL was lost, and what a process that was killed still holds.
    await pool.query('select graphile_worker.force_unlock_workers($1)', [holders.splice(0)]);
    await pool.query(RELEASE_STALE);
    await pool.query(RAISE_LOST);
    const started = await start();
    await hold();
    return started;
  };
  const stopping = new AbortController();
  let runner: Runner | null = await begin();
  /** A queue that stops by itself (PostgreSQL was away) is started again, after growing pauses of up to a minute. */
  const watch = async (): Promise<void> => {
    for (let pause = 500; !stopping.signal.aborted; pause = Math.min(pause * 2, 60_000)) {
      try {
        runner ??= await begin();
        pause = 500;
        await runner.promise;
      } catch (error) {
        log.error({ message: (error as Error).message }, 'the queue stopped');
      }
      runner = null;
      await delay(pause, undefined, { ref: false, signal: stopping.signal }).catch(() => 'stopping');
    }
  };
  const watching = watch();
  const sweep = setInterval(() => {
    const held = holding === null && runner !== null ? hold() : Promise.resolve();
    held
      .then(() => pool.query(RELEASE_STALE))
      .then(() => pool.query(RELEASE_IDLE, [holders, [...running]]))
      .then(() => pool.query(RAISE_LOST))
      .then(() => pool.query(RAISE_LOST_OPENINGS))
      .then(() => pool.query(QUEUE_NOTICES))
      .catch((error: Error) => log.error({ message: error.message }, 'stale jobs were not released'));
  }, 10_000).unref();
  const stop = async (): Promise<void> => {
    await runner?.stop();
    await watching;
    holding?.release(true);
    await pool.end();
  };
  return {
    isReady: () => runner !== null,
    stop: async () => {
      stopping.abort();
      clearInterval(sweep);
      await Promise.race([stop(), delay(STOP_WITHIN_MS, undefined, { ref: false })]);
    },
  };
}
