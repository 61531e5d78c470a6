import { EventEmitter } from 'node:events';
import { setTimeout as delay } from 'node:timers/promises';
import type { FastifyBaseLogger } from 'fastify';
import { Logger, type Runner, run, type TaskList, type WorkerEvents } from 'graphile-worker';
import { type Database, openPool, PATIENCE } from '../db/database.ts';
import { findDelivery, markFailed, markSent } from '../modules/deliveries/repository.ts';
import { type MailOutlet, UnfitAddress } from '../outlets/mail.ts';

/** In batches, even of one, what a job came to is tried again when PostgreSQL is away, and a stop waits for it. */
const CAREFUL = { worker: { completeJobBatchDelay: 0, failJobBatchDelay: 0, gracefulShutdownAbortTimeout: 2000 } } as const;

/** No attempt at a delivery takes as long: a process that took no job for longer and still holds one is gone. */
const LEASE_MINUTES = 5;
const RELEASE_STALE = `select graphile_worker.force_unlock_workers(array(
  select locked_by from graphile_worker.jobs where locked_by is not null
  group by locked_by having max(locked_at) < now() - interval '${LEASE_MINUTES} minutes'))`;
/**
 * A delivery whose last attempt was cut off (its process was killed) has a job that never runs again, or none: it waits for
 * a person like any other that could not be sent.
 */
export const RAISE_LOST = `update deliveries d set status = 'waiting', fault = '{"code":"cut-off","params":{}}'
  where d.status = 'queued' and d.created_at < now() - interval '1 minute' and not exists (
    select 1 from graphile_worker.jobs j where j.key = d.id::text and (j.attempts < j.max_attempts or j.locked_at is not null))`;
const STOP_WITHIN_MS = 10_000;

export type Queue = { readonly isReady: () => boolean; readonly stop: () => Promise<void> };

/**
 * Runs queued jobs in this process. Any number of processes may: each job is taken by one. Failed jobs come again after
 * growing pauses (graphile-worker: e^attempt seconds); after the last attempt a delivery waits for a person.
 */
export async function startQueue(database: Database, outlet: MailOutlet, log: FastifyBaseLogger): Promise<Queue> {
  const taskList: TaskList = {
    deliver: async (payload, helpers) => {
      const { delivery: id } = payload as { readonly delivery: string };
      await deliver(database, outlet, id, helpers.job.attempts >= helpers.job.max_attempts);
    },
  };
  const logger = new Logger(() => (level, message) => {
    if (level === 'error') log.error({ queue: message }, 'queue');
    else log.debug({ queue: message }, 'queue');
  });
  // Connections of its own: a busy queue takes none from requests, nor the other way round.
  const pool = openPool(database.url, 'ypomet queue', 6, PATIENCE);
  const holders: string[] = [];
  const events: WorkerEvents = new EventEmitter();
  events.on('pool:create', ({ workerPool }) => holders.push(workerPool.id));
  const start = (): Promise<Runner> =>
    run({ events, pgPool: pool, taskList, logger, concurrency: 4, pollInterval: 2000, noHandleSignals: true, preset: CAREFUL });
  const begin = async (): Promise<Runner> => {
    // What we held when PostgreSQL was lost, and what a process that was killed still holds.
    await pool.query('select graphile_worker.force_unlock_workers($1)', [holders.splice(0)]);
    await pool.query(RELEASE_STALE);
    await pool.query(RAISE_LOST);
    return start();
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
    pool
      .query(RELEASE_STALE)
      .then(() => pool.query(RAISE_LOST))
      .catch((error: Error) => log.error({ message: error.message }, 'stale jobs were not released'));
  }, 60_000).unref();
  const stop = async (): Promise<void> => {
    await runner?.stop();
    await watching;
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

async function deliver(database: Database, outlet: MailOutlet, id: string, isLast: boolean): Promise<void> {
  const delivery = await findDelivery(database.pool, id);
  if (delivery?.status !== 'queued') return;
  if (delivery.recipients.length === 0) {
    await markFailed(database.pool, id, { code: 'nobody', params: {} }, true);
    return;
  }
  try {
    await outlet.send({ id, to: delivery.recipients, subject: delivery.subject, body: delivery.body });
  } catch (error) {
    if (error instanceof UnfitAddress) {
      // Trying again wouldn't mend it.
      await markFailed(database.pool, id, { code: 'recipient-unfit', params: { recipients: [String(error.position)] } }, true);
      return;
    }
    await markFailed(database.pool, id, { code: 'refused', params: { answer: (error as Error).message.slice(0, 500) } }, isLast);
    throw error;
  }
  await markSent(database.pool, id);
}
