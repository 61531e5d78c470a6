import { setImmediate } from 'node:timers/promises';
import { inTransaction } from '../../db/database.ts';
import { type OpeningContext, openInParts } from './open-follow-ups.ts';
import { takePendingFollowUps } from './pending-follow-ups.ts';
import { findRecords } from './repository.ts';

/** Records that one transaction of the queue opens: short enough that others have their turn. */
const PART = 50;

/**
 * Opens the follow-ups that are pending of a record, a part at a time; each part is opened, and taken off the list, in one
 * transaction. Throws where a part can't be opened: nothing of it is, and the job comes again after a pause.
 */
export async function openPendingFollowUps(context: OpeningContext, record: string): Promise<void> {
  while (await openPart(context, record)) await setImmediate();
}

/** Returns false when nothing is left to open. */
const openPart = (context: OpeningContext, record: string): Promise<boolean> =>
  inTransaction(context.database.pool, async (client) => {
    const pending = await takePendingFollowUps(client, record, PART);
    const [first] = pending;
    const [row] = first ? await findRecords(client, [record]) : [];
    if (!first || !row) return false;
    const followUps = pending.map(({ consequence }) => consequence);
    const source = { record, number: row.number, workflow: row.workflow, followUps };
    await openInParts(context, client, first.actor, [source], { depth: first.depth, atOnce: PART, mails: first.mails });
    return true;
  });
