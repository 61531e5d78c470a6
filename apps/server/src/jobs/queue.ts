import { setTimeout as delay } from 'node:timers/promises';
import type { FastifyBaseLogger } from 'fastify';
import { Logger, type Runner, run, type TaskList } from 'graphile-worker';
import { type Database, openPool } from '../db/database.ts';
import { findDelivery, markFailed, markSent } from '../modules/deliveries/repository.ts';
import type { MailOutlet } from '../outlets/mail.ts';

/** In batches, even of one, what a job came to is tried again when PostgreSQL is away, and a stop waits for it. */
const CAREFUL = { worker: { completeJobBatchDelay: 0, failJobBatchDelay: 0 } } as const;

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
  const pool = openPool(database.url, 'ypomet queue', 6);
  const start = (): Promise<Runner> =>
    run({ pgPool: pool, taskList, logger, concurrency: 4, pollInterval: 2000, noHandleSignals: true, preset: CAREFUL });
  let runner: Runner | null = await start();
  const stopping = new AbortController();
  /** A queue that stops by itself (PostgreSQL was away for long) is started again, after growing pauses of up to a minute. */
  const watch = async (): Promise<void> => {
    for (let pause = 1000; !stopping.signal.aborted; pause = Math.min(pause * 2, 60_000)) {
      try {
        runner ??= await start();
        pause = 1000;
        await runner.promise;
      } catch (error) {
        log.error({ message: (error as Error).message }, 'the queue stopped');
      }
      runner = null;
      await delay(pause, undefined, { ref: false, signal: stopping.signal }).catch(() => 'stopping');
    }
  };
  const watching = watch();
  return {
    isReady: () => runner !== null,
    stop: async () => {
      stopping.abort();
      await runner?.stop();
      await watching;
      await pool.end();
    },
  };
}

async function deliver(database: Database, outlet: MailOutlet, id: string, isLast: boolean): Promise<void> {
  const delivery = await findDelivery(database.pool, id);
  if (delivery?.status !== 'queued') return;
  if (delivery.recipients.length === 0) {
    await markFailed(database.pool, id, 'Nobody to send it to: no address was found.', true);
    return;
  }
  try {
    await outlet.send({ id, to: delivery.recipients, subject: delivery.subject, body: delivery.body });
  } catch (error) {
    await markFailed(database.pool, id, (error as Error).message, isLast);
    throw error;
  }
  await markSent(database.pool, id);
}
