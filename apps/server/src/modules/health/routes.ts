import { setTimeout as delay } from 'node:timers/promises';
import type { ServerContext } from '../../context.ts';
import { findStanding } from '../../jobs/standing.ts';
import type { Handle } from '../../plugins/contract.ts';

/** PostgreSQL answers this at once, or something is wrong. */
const WITHIN_MS = 1500;
const LOOKED_FOR_MS = 10_000;

/**
 * Answers 200 when the server can serve, 503 when its database or its queue can't be reached, or when requests had to be
 * given up lately because the database didn't answer. Says too whether what is queued moves.
 */
export function healthRoutes(handle: Handle, { database, isQueueReady }: ServerContext): void {
  /** Whether some queue stands still, looked for anew after a while only: health is asked for often. */
  let looked: { readonly at: number; readonly isStanding: Promise<boolean> } | null = null;
  const isStanding = (): Promise<boolean> => {
    const now = performance.now();
    if (looked === null || now - looked.at > LOOKED_FOR_MS)
      looked = {
        at: now,
        isStanding: findStanding(database.pool).then(
          (standing) => standing.length > 0,
          () => false,
        ),
      };
    return Promise.race([looked.isStanding, delay(WITHIN_MS, false, { ref: false })]);
  };
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
    const status = !isReady ? ('unready' as const) : (await isStanding()) ? ('standing' as const) : ('ok' as const);
    return { status, version: '0.1.0', database: isDatabaseReady, queue };
  });
}
