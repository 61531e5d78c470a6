import {
  type Actor,
  type CompiledWorkflow,
  type FindRecord,
  type Json,
  mayRead,
  type Outside,
  readStoredValues,
  type Value,
  type Workflow,
} from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { findRecords, type Queries } from './repository.ts';

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;

/** Ids that reference fields hold, in the record and in what was entered. */
function referencedIds(definition: Workflow, ...sources: readonly Readonly<Record<string, Json>>[]): readonly string[] {
  const ids = definition.fields
    .filter((field) => field.type === 'reference')
    .flatMap((field) => sources.map((values) => values[field.key]))
    .filter((id): id is string => typeof id === 'string' && UUID.test(id));
  return [...new Set(ids)];
}

/** Loads the records that references point to, each with the fields the actor may read. */
export async function loadReferences(
  context: ServerContext,
  db: Queries,
  workflow: CompiledWorkflow,
  actor: Actor,
  outside: Omit<Outside, 'findRecord'>,
  ...sources: readonly Readonly<Record<string, Json>>[]
): Promise<FindRecord> {
  const rows = await findRecords(db, referencedIds(workflow.definition, ...sources));
  const found = new Map<string, Record<string, Value>>();
  for (const row of rows) {
    const target = await context.workflows.find(row.workflow, row.version);
    if (!target) continue;
    const values = readStoredValues(target.forms, row.values, { ...outside, findRecord: () => null });
    const readable = target.forms.fields.filter(({ field }) => mayRead(field, actor));
    found.set(
      `${row.workflow}/${row.id}`,
      Object.fromEntries(readable.map(({ field, slot }) => [field.key, values[slot] ?? null])),
    );
  }
  return (key, id) => found.get(`${key}/${id}`) ?? null;
}
