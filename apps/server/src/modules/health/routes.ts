import { setTimeout as delay } from 'node:timers/promises';
import type { ServerContext } from '../../context.ts';
import type { Handle } from '../../plugins/contract.ts';

/** PostgreSQL answers this at once, or something is wrong. */
const WITHIN_MS = 1500;

/**
 * Answers 200 when the server can serve, 503 when its database or its queue can't be reached, or when requests had to be
 * given up lately because the database didn't answer.
 */
export function healthRoutes(handle: Handle, { database, isQueueReady }: ServerContext): void {
  handle('health', async ({ reply, request }) => {
    const answers = database.pool.query('select 1').then(
      () => true,
      (error: Error) => {
        request.log.warn({ message: error.message }, 'the database can’t be reached');
        return false;
      },
    );
    const isReached = await Promise.race([answers, delay(WITHIN_MS, false, { ref: false })]);
    const isDatabaseReady = isReached && !database.isStalling();
    const queue = isQueueReady();
    const isReady = isDatabaseReady && queue;
    if (!isReady) reply.code(503);
    return { status: isReady ? ('ok' as const) : ('unready' as const), version: '0.1.0', database: isDatabaseReady, queue };
  });
}
