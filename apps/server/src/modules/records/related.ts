import type { RecordDocument, RelatedRecord } from '@ypomet/contract';
import { type Actor, findStage, maySee } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { type RecordRow, toRecord } from './record-row.ts';
import { findOpened, findRecords } from './repository.ts';

/** Records as those who come from another one see them: which they are and how far; none that the actor may not see. */
export async function relatedRecords(
  { workflows }: Pick<ServerContext, 'workflows'>,
  rows: readonly RecordRow[],
  actor: Actor,
): Promise<readonly RelatedRecord[]> {
  const found: RelatedRecord[] = [];
  for (const row of rows) {
    const workflow = await workflows.find(row.workflow, row.version);
    if (!workflow || !maySee(workflow.definition, toRecord(row), actor)) continue;
    found.push({
      id: row.id,
      number: row.number,
      workflow: row.workflow,
      workflowName: workflow.definition.name,
      stageName: findStage(workflow.definition, row.stage)?.name ?? row.stage,
      isDone: row.stageKind === 'end',
      isIncomplete: row.issues !== null,
    });
  }
  return found;
}

/** The record that opened one, those it opened, as far as the actor may see them, and how many are still to be opened. */
export async function relatedOf(
  context: Pick<ServerContext, 'database' | 'workflows'>,
  row: RecordRow,
  actor: Actor,
): Promise<Pick<RecordDocument, 'openedBy' | 'opened' | 'opening'>> {
  const { pool } = context.database;
  const hasOpened = row.followUps.open + row.followUps.done > 0;
  const sources = row.openedBy === null ? [] : await findRecords(pool, [row.openedBy]);
  const { rows, opening } = hasOpened ? await findOpened(pool, row.id) : { rows: [], opening: 0 };
  const [openedBy = null] = await relatedRecords(context, sources, actor);
  return { openedBy, opened: [...(await relatedRecords(context, rows, actor))], opening };
}
