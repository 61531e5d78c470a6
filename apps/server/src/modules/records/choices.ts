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
  const found: ChoiceEntry[] = [];
  for (const row of rows) {
    if (found.length === MAX_OFFERED) break;
    const workflow = await context.workflows.find(row.workflow, row.version);
    if (!workflow || !maySee(workflow.definition, toRecord(row), actor)) continue;
    const stage = workflow.stages.get(row.stage)?.stage.name ?? row.stage;
    found.push({ id: row.id, name: row.number, note: stage });
  }
  return found;
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
