import type { Edit, Workflow } from '@ypomet/core';
import { and, desc, eq, sql } from 'drizzle-orm';
import type { Drizzle } from '../../db/database.ts';
import { draftEdits, members, records, versions, workflows } from '../../db/schema.ts';

export type Transaction = Parameters<Parameters<Drizzle['transaction']>[0]>[0];
export type Queryable = Drizzle | Transaction;
export type WorkflowRow = typeof workflows.$inferSelect;

export async function findWorkflowRow(db: Queryable, key: string): Promise<WorkflowRow | null> {
  const [row] = await db.select().from(workflows).where(eq(workflows.key, key));
  return row ?? null;
}

/** Locks a draft for the rest of the transaction. */
export async function lockWorkflowRow(db: Transaction, key: string): Promise<WorkflowRow | null> {
  const [row] = await db.select().from(workflows).where(eq(workflows.key, key)).for('update');
  return row ?? null;
}

export async function listWorkflowRows(db: Queryable) {
  const open = db
    .select({ workflow: records.workflow, count: sql<number>`count(*)::int`.as('count') })
    .from(records)
    .where(sql`${records.stageKind} <> 'end'`)
    .groupBy(records.workflow)
    .as('open');
  return db
    .select({ row: workflows, open: sql<number>`coalesce(${open.count}, 0)::int` })
    .from(workflows)
    .leftJoin(open, eq(open.workflow, workflows.key))
    .orderBy(sql`lower(${workflows.definition} ->> 'name')`);
}

/** Inserts a workflow; false when its key is taken. */
export async function insertWorkflow(db: Queryable, definition: Workflow): Promise<boolean> {
  const inserted = await db
    .insert(workflows)
    .values({ key: definition.key, definition })
    .onConflictDoNothing()
    .returning({ key: workflows.key });
  return inserted.length === 1;
}

export async function updateDraft(
  db: Transaction,
  key: string,
  definition: Workflow,
  revision: number,
  edits: readonly { readonly edit: Edit; readonly inverse: Edit }[],
  by: string,
): Promise<void> {
  await db.update(workflows).set({ definition, revision, changedAt: sql`now()` }).where(eq(workflows.key, key));
  await db
    .insert(draftEdits)
    .values(edits.map(({ edit, inverse }, position) => ({ workflow: key, revision, position, edit, inverse, by })));
}

export async function insertVersion(db: Transaction, row: WorkflowRow, by: string): Promise<number> {
  const number = (row.publishedVersion ?? 0) + 1;
  await db.insert(versions).values({ workflow: row.key, number, definition: row.definition, publishedBy: by });
  await db.update(workflows).set({ publishedVersion: number, publishedRevision: row.revision }).where(eq(workflows.key, row.key));
  return number;
}

export async function listVersions(db: Queryable, key: string) {
  return db
    .select({
      number: versions.number,
      definition: versions.definition,
      publishedAt: versions.publishedAt,
      publishedBy: sql<string>`coalesce(${members.name}, '')`,
      recordsOpen: sql<number>`(select count(*)::int from ${records} where ${records.workflow} = ${versions.workflow} and ${records.version} = ${versions.number} and ${records.stageKind} <> 'end')`,
    })
    .from(versions)
    .leftJoin(members, eq(members.id, versions.publishedBy))
    .where(eq(versions.workflow, key))
    .orderBy(desc(versions.number));
}

export async function findVersion(db: Queryable, key: string, number: number): Promise<typeof versions.$inferSelect | null> {
  const [row] = await db
    .select()
    .from(versions)
    .where(and(eq(versions.workflow, key), eq(versions.number, number)));
  return row ?? null;
}

/** The newest version of every published workflow. */
export async function listPublished(db: Queryable) {
  return db
    .select({ definition: versions.definition, number: versions.number })
    .from(workflows)
    .innerJoin(versions, and(eq(versions.workflow, workflows.key), eq(versions.number, workflows.publishedVersion)))
    .orderBy(workflows.key);
}
