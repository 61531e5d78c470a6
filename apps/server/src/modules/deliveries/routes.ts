import type { DeliveryEntry } from '@ypomet/contract';
import type { ServerContext } from '../../context.ts';
import { decodeCursor, encodeCursor } from '../../paging.ts';
import type { Handle } from '../../plugins/contract.ts';
import { ProblemError } from '../../problem.ts';
import { type DeliveryRow, findDelivery, listDeliveries, requeueDelivery } from './repository.ts';

const toEntry = ({ body: _, ...entry }: DeliveryRow): DeliveryEntry => entry;

export function deliveryRoutes(handle: Handle, { database: { pool }, mailbox }: ServerContext): void {
  handle('deliveries', async ({ query: { limit, after } }) => {
    const rows = await listDeliveries(pool, limit + 1, decodeCursor(after));
    const last = rows[limit - 1];
    return {
      entries: rows.slice(0, limit).map(toEntry),
      next: rows.length > limit && last ? encodeCursor({ at: last.createdAt, id: last.id }) : null,
    };
  });

  handle('retryDelivery', async ({ params: { id } }) => {
    const isQueued = await requeueDelivery(pool, id);
    const row = await findDelivery(pool, id);
    if (!row) throw new ProblemError('thing/not-found');
    if (!isQueued) throw new ProblemError('delivery/not-waiting');
    return toEntry(row);
  });

  handle('mailbox', async ({ query: { limit, after } }) => (mailbox ? mailbox.list(limit, after) : { entries: [], next: null }));

  handle('mail', async ({ params: { id } }) => {
    const mail = await mailbox?.find(id);
    if (!mail) throw new ProblemError('thing/not-found');
    return mail;
  });
}
