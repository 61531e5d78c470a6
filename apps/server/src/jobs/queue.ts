import type { FastifyBaseLogger } from 'fastify';
import { Logger, type Runner, run, type TaskList } from 'graphile-worker';
import type { Database } from '../db/database.ts';
import { findDelivery, markFailed, markSent } from '../modules/deliveries/repository.ts';
import type { MailOutlet } from '../outlets/mail.ts';

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
  const runner: Runner = await run({
    pgPool: database.pool,
    taskList,
    logger,
    concurrency: 4,
    pollInterval: 2000,
    noHandleSignals: true,
  });
  let isRunning = true;
  runner.promise.then(
    () => (isRunning = false),
    (error: Error) => {
      isRunning = false;
      log.error({ message: error.message }, 'the queue stopped');
    },
  );
  return {
    isReady: () => isRunning,
    stop: async () => {
      if (isRunning) await runner.stop();
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
