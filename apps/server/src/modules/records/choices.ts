import type { ChoiceEntry } from '@ypomet/contract';
import {
  type Actor,
  type CompiledWorkflow,
  canBeEntered,
  type Field,
  mayRead,
  maySee,
  type SubField,
  splitFieldPath,
} from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { ProblemError } from '../../problem.ts';
import { anywhere } from '../registers/narrowing.ts';
import { aboutEach } from './about.ts';
import { RECORD_COLUMNS, type RecordRow, toRecord } from './record-row.ts';

const MAX_OFFERED = 20;
/** Records looked through for those that somebody may see. */
const MAX_LOOKED_AT = 400;

/** What a member or reference field may name: members with its role, or records of its workflow that the actor may see. */
export async function listChoices(
  context: ServerContext,
  field: Field | SubField,
  search: string,
  actor: Actor,
): Promise<ChoiceEntry[]> {
  const { pool } = context.database;
  if (field.type === 'member') {
    const { rows } = await pool.query<{ id: string; name: string }>(
      `select id, name from members where not is_guest and ($1::text is null or $1 = any(roles)) and name ilike $2 order by name limit ${MAX_OFFERED}`,
      [field.role, anywhere(search)],
    );
    return rows.map(({ id, name }) => ({ id, name, note: '' }));
  }
  if (field.type !== 'reference') throw new ProblemError('thing/not-found');
  const { rows } = await pool.query<RecordRow>(
    `select ${RECORD_COLUMNS} from records r where r.workflow = $1 and r.number ilike $2
     order by r.created_at desc, r.id desc limit ${MAX_LOOKED_AT}`,
    [field.workflow, anywhere(search)],
  );
  const found: { readonly row: RecordRow; readonly stage: string }[] = [];
  for (const row of rows) {
    if (found.length === MAX_OFFERED) break;
    const workflow = await context.workflows.find(row.workflow, row.version);
    if (!workflow || !maySee(workflow.definition, toRecord(row), actor)) continue;
    found.push({ row, stage: workflow.stages.get(row.stage)?.stage.name ?? row.stage });
  }
  const seen = found.map(({ row }) => row);
  const about = await aboutEach(context, seen, actor);
  return found.map(({ row: { id, number }, stage }) => ({
    id,
    name: number,
    note: [about.get(id), stage].filter(Boolean).join(' · '),
  }));
}

/**
 * The members (by name or mail address, capitals aside) or records (by number) that a field may name, by what they are called:
 * an id; null where several are called so. Who isn't there is missing.
 */
export async function findByName(
  context: ServerContext,
  field: Field | SubField,
  names: readonly string[],
  actor: Actor,
): Promise<ReadonlyMap<string, string | null>> {
  const found = new Map<string, string | null>();
  const note = (name: string, id: string): void => {
    const before = found.get(name);
    found.set(name, before === undefined || before === id ? id : null);
  };
  const { pool } = context.database;
  if (field.type === 'member') {
    const wanted = names.map((name) => name.toLowerCase());
    const { rows } = await pool.query<{ id: string; name: string; email: string }>(
      `select id, lower(name) as name, lower(email) as email from members
       where not is_guest and ($1::text is null or $1 = any(roles)) and (lower(name) = any($2) or lower(email) = any($2))`,
      [field.role, wanted],
    );
    for (const row of rows) for (const name of new Set([row.name, row.email])) note(name, row.id);
    return new Map(
      names.flatMap((name) => {
        const id = found.get(name.toLowerCase());
        return id === undefined ? [] : [[name, id] as const];
      }),
    );
  }
  if (field.type !== 'reference') throw new ProblemError('thing/not-found');
  const { rows } = await pool.query<RecordRow>(
    `select ${RECORD_COLUMNS} from records r where r.workflow = $1 and r.number = any($2)`,
    [field.workflow, names],
  );
  for (const row of rows) if (await isSeen(context, row, actor)) note(row.number, row.id);
  return found;
}

async function isSeen(context: ServerContext, row: RecordRow, actor: Actor): Promise<boolean> {
  const workflow = await context.workflows.find(row.workflow, row.version);
  return workflow !== null && workflow !== undefined && maySee(workflow.definition, toRecord(row), actor);
}

/** A member or reference field that the actor can come to enter at a stage. */
export function choosableField(workflow: CompiledWorkflow, stage: string, path: string, actor: Actor): Field | SubField {
  const { field, sub } = splitFieldPath(path);
  const step = workflow.forms.stageForm(stage).fieldSteps.get(field);
  if (!step || !mayRead(workflow.forms, field, actor)) throw new ProblemError('thing/not-found');
  const row = step.rows.find(({ of }) => of.field.key === sub);
  const isOpen = canBeEntered(step.placement) && (sub === null || (row !== undefined && canBeEntered(row.placement)));
  if (!isOpen) throw new ProblemError('thing/not-found');
  return sub === null ? step.of.field : (row?.of.field as SubField);
}
