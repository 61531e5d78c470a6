import { type Actor, maySee, readsEverything } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { toRecord } from '../records/record-row.ts';
import { findRecords } from '../records/repository.ts';
import type { DeliveryRow } from './repository.ts';

/**
 * Whether somebody may read what was sent (semantics 7): they may see the record, and are among the readers of every
 * confidential field that could be in it, also of the records it refers to.
 */
export async function mayReadDelivery(
  { database, workflows }: Pick<ServerContext, 'database' | 'workflows'>,
  { recordId }: Pick<DeliveryRow, 'recordId'>,
  actor: Actor,
): Promise<boolean> {
  const [row] = await findRecords(database.pool, [recordId]);
  const workflow = row && (await workflows.find(row.workflow, row.version));
  if (!row || !workflow) return false;
  return maySee(workflow.definition, toRecord(row), actor) && readsEverything(workflow, actor.roles);
}
