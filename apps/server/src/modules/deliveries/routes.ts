import type { DeliveryEntry, SentContent } from '@ypomet/contract';
import { type Actor, writePlain } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import type { StoredContent } from '../../db/schema.ts';
import { findStanding } from '../../jobs/standing.ts';
import { decodeCursor, encodeCursor } from '../../paging.ts';
import type { Handle } from '../../plugins/contract.ts';
import { ProblemError } from '../../problem.ts';
import { mayReadDelivery } from './readers.ts';
import { countWaiting, type DeliveryRow, findDelivery, listAttempts, listDeliveries, requeueDeliveries } from './repository.ts';
import { correct, findOwnDelivery, putAway } from './settle.ts';

const toEntry = ({ body: _, content: __, ...entry }: DeliveryRow): DeliveryEntry => entry;

/** An entry of the log as somebody may read it: addresses that were made from confidential values are for their readers. */
const withReceivers = (entry: DeliveryEntry, isReader: boolean): DeliveryEntry => {
  const isHidden = entry.hidesReceivers && !isReader;
  return { ...entry, hidesReceivers: isHidden, recipients: isHidden ? [] : entry.recipients };
};

export function deliveryRoutes(handle: Handle, context: ServerContext): void {
  const { pool } = context.database;
  const told = async (row: DeliveryRow, actor: Actor): Promise<DeliveryEntry> =>
    withReceivers(toEntry(row), !row.hidesReceivers || (await mayReadDelivery(context, row, actor)));
  handle('deliveries', async ({ query: { limit, after, ...filter }, actor }) => {
    const rows = await listDeliveries(pool, filter, context.workspace.zone, limit + 1, decodeCursor(after));
    const last = rows[limit - 1];
    const entries: DeliveryEntry[] = [];
    for (const row of rows.slice(0, limit))
      entries.push(row.hidesReceivers ? withReceivers(row, await mayReadDelivery(context, row, actor)) : row);
    return {
      entries,
      next: rows.length > limit && last ? encodeCursor({ at: last.createdAt, id: last.id }) : null,
    };
  });

  handle('delivery', async ({ params: { id }, actor }) => {
    const { row, mayRead: isReader } = await findOwnDelivery(context, id, actor);
    const mayRead = row.content !== null && isReader;
    const tried = await listAttempts(pool, id);
    return {
      ...withReceivers(toEntry(row), isReader),
      content: mayRead && row.content ? toContent(row.content) : null,
      // What a receiver said may repeat what was sent.
      tried: tried.map((one) => (mayRead ? one : { ...one, answer: '', issues: [] })),
    };
  });

  handle('retryDelivery', async ({ params: { id }, actor }) => {
    await findOwnDelivery(context, id, actor);
    const isQueued = (await requeueDeliveries(pool, { ids: [id] })) === 1;
    const row = await findDelivery(pool, id);
    if (!row) throw new ProblemError('thing/not-found');
    if (!isQueued) throw new ProblemError('delivery/not-waiting');
    return told(row, actor);
  });

  handle('putAwayDelivery', async ({ params: { id }, body, actor }) =>
    told(await putAway(context, id, body.reason, actor), actor),
  );
  handle('correctDelivery', async ({ params: { id }, body, actor }) => told(await correct(context, id, body, actor), actor));
  handle('waitingDeliveries', async () => {
    const [waiting, standing] = await Promise.all([countWaiting(pool), findStanding(pool)]);
    return { waiting, standing: [...standing] };
  });
  handle('retryDeliveries', async ({ body }) => {
    if (!body.ids && !body.outlet) throw new ProblemError('request/invalid', { path: 'ids' });
    return { queued: await requeueDeliveries(pool, body) };
  });
}

function toContent(content: StoredContent): SentContent {
  switch (content.type) {
    case 'mail': {
      const { to, cc, bcc, replyTo } = content.addresses ?? { to: [], cc: [], bcc: [], replyTo: [] };
      const attachments = [
        ...(content.attached ? [`record.${content.attached.format}`] : []),
        ...content.files.map(({ name }) => name),
      ];
      return {
        kind: 'mail',
        to: [...to],
        cc: [...cc],
        bcc: [...bcc],
        replyTo: [...replyTo],
        subject: content.subject,
        text: content.body,
        attachments,
      };
    }
    case 'web': {
      const { method, address, mediaType, body } = content;
      return {
        kind: 'web',
        method,
        address,
        mediaType,
        body,
        headers: content.headers.map(([name, value]) => ({ name, value })),
      };
    }
    case 'file': {
      const { folder, fileName, written } = content;
      const text =
        written.format === 'json' ? written.text : written.format === 'csv' ? written.row.join(' · ') : writePlain(written.text);
      return { kind: 'file', folder, fileName, format: written.format, text };
    }
    default:
      return content satisfies never;
  }
}
