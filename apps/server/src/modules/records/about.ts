import { type Actor, aboutRecord } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { Lookups } from './lookups.ts';
import { type RecordRow, toRecord } from './record-row.ts';

/** What each of some records is about, by its id, from what somebody may see of it. */
export async function aboutEach(
  context: ServerContext,
  rows: readonly RecordRow[],
  actor: Actor,
): Promise<ReadonlyMap<string, string>> {
  const versions = new Map<string, RecordRow[]>();
  for (const row of rows) {
    const key = JSON.stringify([row.workflow, row.version]);
    versions.set(key, [...(versions.get(key) ?? []), row]);
  }
  const about = new Map<string, string>();
  for (const own of versions.values()) {
    const [first] = own;
    const workflow = first && (await context.workflows.find(first.workflow, first.version));
    if (!workflow) continue;
    const lookups = new Lookups(context, context.database.pool, workflow, actor);
    await lookups.settleEach(own, (row) => about.set(row.id, aboutRecord(workflow, toRecord(row), actor, lookups.outside)));
  }
  return about;
}
