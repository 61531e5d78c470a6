import type { ServerContext } from '../../context.ts';
import type { Handle } from '../../plugins/contract.ts';

/** Answers 200 when the server can serve, 503 when its database or its queue can't be reached. */
export function healthRoutes(handle: Handle, { database, isQueueReady }: ServerContext): void {
  handle('health', async ({ reply, request }) => {
    const isDatabaseReady = await database.pool.query('select 1').then(
      () => true,
      (error: Error) => {
        request.log.warn({ message: error.message }, 'the database can’t be reached');
        return false;
      },
    );
    const queue = isQueueReady();
    const isReady = isDatabaseReady && queue;
    if (!isReady) reply.code(503);
    return { status: isReady ? ('ok' as const) : ('unready' as const), version: '0.1.0', database: isDatabaseReady, queue };
  });
}
