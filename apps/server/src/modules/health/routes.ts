import { statfs } from 'node:fs/promises';
import { setTimeout as delay } from 'node:timers/promises';
import type { ServerContext } from '../../context.ts';
import { findStanding } from '../../jobs/standing.ts';
import type { Handle } from '../../plugins/contract.ts';
import { MEMBERS_SHARE } from '../files/begun-uploads.ts';

/** PostgreSQL answers this at once, or something is wrong. */
const WITHIN_MS = 1500;
const LOOKED_FOR_MS = 10_000;

/** Whether the disk has room for what members hand over. */
const hasRoom = async ({ dataDir, keepFreeBytes }: ServerContext['config']): Promise<boolean> => {
  const { bavail, bsize } = await statfs(dataDir);
  return bavail * bsize >= keepFreeBytes * MEMBERS_SHARE;
};

/**
 * Answers 200 when the server can serve, 503 when its database or its queue can't be reached, its clock isn't the database's, or when requests had to be
 * given up lately because the database didn't answer. Says too whether what is queued moves.
 */
export function healthRoutes(handle: Handle, { config, database, wallClock, isQueueReady }: ServerContext): void {
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
    const clock = isDatabaseReady && !(await wallClock.isOff().catch(() => true));
    const isReady = isDatabaseReady && queue && clock;
    if (!isReady) reply.code(503);
    const room = await hasRoom(config);
    const serving = !room ? ('full' as const) : (await isStanding()) ? ('standing' as const) : ('ok' as const);
    return { status: isReady ? serving : ('unready' as const), version: '0.1.0', database: isDatabaseReady, queue, clock, room };
  });
}
