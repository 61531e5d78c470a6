import { type Actor, type RefreshConsequence, refreshRecord } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { clockColumns } from './clock-columns.ts';
import { Lookups } from './lookups.ts';
import { refreshPendingFollowUps } from './pending-follow-ups.ts';
import { toRecord } from './record-row.ts';
import { findOpenedForUpdate, type Queries, writeNoted } from './repository.ts';

/**
 * Gives the records that one opened, and that are open still, their carried values anew, within the transaction of the hand-off
 * that asks for it. Each is matched by its follow-up and the row it was opened for.
 */
export async function refreshOpened(
  context: ServerContext,
  db: Queries,
  actor: Actor,
  source: { readonly workflow: string; readonly record: string; readonly number: string | null },
  refreshes: readonly RefreshConsequence[],
): Promise<void> {
  if (refreshes.length === 0) return;
  await refreshPendingFollowUps(db, source.record, refreshes);
  const by = { workflow: source.workflow, record: source.record, number: source.number };
  for (const { followUp, openedRow, ...row } of await findOpenedForUpdate(db, source.record)) {
    const found = refreshes.find((one) => one.followUp === followUp && one.workflow === row.workflow && one.row === openedRow);
    const target = found && (await context.workflows.find(row.workflow, row.version));
    if (!found || !target) continue;
    const lookups = new Lookups(context, db, target, actor);
    const refreshed = await lookups.settle(() => refreshRecord(target, toRecord(row), found, by, actor, lookups.outside));
    if (refreshed.event)
      await writeNoted(
        db,
        refreshed.record,
        row.revision,
        refreshed.event,
        clockColumns(target, refreshed.record, lookups.outside),
      );
  }
}
