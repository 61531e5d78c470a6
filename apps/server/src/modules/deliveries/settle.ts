import { type CorrectionRequest, SERVER_EN } from '@ypomet/contract';
import { type Actor, isMailAddress } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { inTransaction } from '../../db/database.ts';
import type { StoredContent } from '../../db/schema.ts';
import { ProblemError } from '../../problem.ts';
import { findOutlet } from '../outlets/repository.ts';
import { clockColumns } from '../records/clock-columns.ts';
import { Lookups } from '../records/lookups.ts';
import { toRecord } from '../records/record-row.ts';
import { findRecordsForUpdate, writeNoted } from '../records/repository.ts';
import { mayReadDelivery } from './readers.ts';
import { correctDelivery, type DeliveryRow, findDelivery, markPutAway, requeueDeliveries } from './repository.ts';

/**
 * Finds a delivery that somebody may look after: analysts, and those who may read all that it holds. Any other is answered as if
 * there were none. Codes: `thing/not-found`.
 */
export async function findOwnDelivery(
  context: ServerContext,
  id: string,
  actor: Actor,
): Promise<{ readonly row: DeliveryRow; readonly mayRead: boolean }> {
  const row = await findDelivery(context.database.pool, id);
  const mayRead = row !== null && (await mayReadDelivery(context, row, actor));
  if (!row || !(mayRead || actor.roles.includes('analyst'))) throw new ProblemError('thing/not-found');
  return { row, mayRead };
}

/**
 * Says of a delivery that waits that it isn't sent any more. The record's history tells it, and what waited for its answer
 * waits no longer. Codes: `thing/not-found`, `delivery/not-waiting`.
 */
export async function putAway(context: ServerContext, id: string, reason: string, actor: Actor): Promise<DeliveryRow> {
  const { database, workflows } = context;
  await findOwnDelivery(context, id, actor);
  await inTransaction(database.pool, async (client) => {
    const delivery = await findDelivery(client, id);
    if (!delivery) throw new ProblemError('thing/not-found');
    const [row] = await findRecordsForUpdate(client, [delivery.recordId]);
    const isPutAway = await markPutAway(client, id, { code: 'put-away', params: { by: actor.name, reason } });
    if (!isPutAway) throw new ProblemError('delivery/not-waiting');
    const workflow = row && (await workflows.find(row.workflow, row.version));
    if (!row || !workflow) throw new Error(`no record ${delivery.recordId}`);
    const { outside } = new Lookups(context, client, workflow, actor);
    const event = { type: 'put-away' as const, delivery: delivery.name, outlet: delivery.outlet };
    const record = toRecord(row);
    await writeNoted(client, record, row.revision, event, clockColumns(workflow, record, outside), actor.id);
  });
  context.changes.lookSoon();
  return found(await findDelivery(database.pool, id));
}

/**
 * Puts a delivery that waits right and tries it again: another receiver, name of a file or outlet. Whoever sends it elsewhere has
 * to be among its readers: it could be sent to themselves. Codes: `thing/not-found`, `session/forbidden`,
 * `delivery/not-waiting`, `request/invalid` where what is given isn't of its kind.
 */
export async function correct(
  context: ServerContext,
  id: string,
  correction: CorrectionRequest,
  actor: Actor,
): Promise<DeliveryRow> {
  const { pool } = context.database;
  const { row, mayRead } = await findOwnDelivery(context, id, actor);
  if (!mayRead && (correction.to !== undefined || correction.outlet !== undefined))
    throw new ProblemError('session/forbidden', { detail: SERVER_EN.details['not-a-reader'] });
  const outlet = correction.outlet === undefined ? null : await findOutlet(pool, correction.outlet);
  if (correction.outlet !== undefined && outlet?.settings.kind !== row.kind)
    throw new ProblemError('request/invalid', { path: 'outlet' });
  const corrected = await inTransaction(pool, async (client) => {
    const content = row.content && correctContent(row.content, correction);
    if (!content) throw new ProblemError('request/invalid', { path: 'to' });
    const written = await correctDelivery(client, id, {
      outlet: correction.outlet ?? row.outlet,
      content: { ...content, outlet: correction.outlet ?? content.outlet },
      recipients: recipientsOf(content) ?? row.recipients,
      subject: content.type === 'file' ? `${content.folder === '' ? '' : `${content.folder}/`}${content.fileName}` : row.subject,
    });
    return written && (await requeueDeliveries(client, { ids: [id] })) === 1;
  });
  if (!corrected) throw new ProblemError('delivery/not-waiting');
  return found(await findDelivery(pool, id));
}

/** The content with what was put right; null where that isn't of its kind. */
function correctContent(content: StoredContent, { to, fileName }: CorrectionRequest): StoredContent | null {
  if (to !== undefined) {
    if (content.type !== 'mail') return null;
    const wrong = to.find((one) => !isMailAddress(one));
    if (wrong !== undefined) throw new ProblemError('request/invalid', { path: `to.${to.indexOf(wrong)}` });
    const addresses = content.addresses ?? { to: [], cc: [], bcc: [], replyTo: [] };
    return { ...content, unfit: [], fromValues: [], addresses: { ...addresses, to: [...new Set(to)] } };
  }
  if (fileName === undefined) return content;
  return content.type === 'file' ? { ...content, fileName } : null;
}

const recipientsOf = (content: StoredContent): string[] | null =>
  content.type === 'mail' && content.addresses
    ? [...new Set([...content.addresses.to, ...content.addresses.cc, ...content.addresses.bcc])]
    : null;

function found(row: DeliveryRow | null): DeliveryRow {
  if (!row) throw new ProblemError('thing/not-found');
  return row;
}
