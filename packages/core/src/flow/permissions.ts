import type { CompiledForms } from '../forms/compiled-forms.ts';
import { isReader, type Readers } from '../forms/readers.ts';
import type { Field, SubField } from '../model/field.ts';
import type { HandOff, Stage } from '../model/flow.ts';
import { REGISTER_RIGHTS, type RegisterRight, type Workflow } from '../model/workflow.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import { type Actor, CLOCK, type WorkflowRecord } from './record.ts';

const shares = (roles: readonly string[], actor: Pick<Actor, 'roles'>): boolean =>
  roles.some((role) => actor.roles.includes(role));

/**
 * Whether an actor may work on a record at its stage: one of the stage's roles, or the member it is assigned to. A record
 * assigned to a role or a member is theirs alone. A stage without roles is open to whoever submitted the record.
 */
export function mayAct(stage: Stage, record: WorkflowRecord, actor: Actor): boolean {
  if (record.assignee?.kind === 'member') return record.assignee.member === actor.id;
  if (record.assignee?.kind === 'role') return actor.roles.includes(record.assignee.role);
  if (stage.roles.length > 0) return shares(stage.roles, actor);
  return stage.kind !== 'end' && stage.kind !== 'junction' && record.submittedBy === actor.id;
}

/** Whether an actor may begin a record at an intake stage. */
export const mayBegin = (stage: Stage, actor: Actor): boolean =>
  stage.kind === 'intake' && (stage.roles.length === 0 || shares(stage.roles, actor));

/** Whether an actor may press a hand-off, its own condition aside. The clock may those that happen by themselves, and nobody those that are its alone. */
export function mayHandOn(handOff: HandOff, stage: Stage, record: WorkflowRecord, actor: Actor): boolean {
  if (actor === CLOCK) return handOff.byClock !== null;
  if (handOff.byClock?.alone) return false;
  return mayAct(stage, record, actor) && (handOff.roles.length === 0 || shares(handOff.roles, actor));
}

/** What of a workflow's register an actor sees: the widest right of the actor's roles. */
export function registerRightOf({ roles }: Pick<Workflow, 'roles'>, actor: Pick<Actor, 'roles'>): RegisterRight {
  const rights = roles.filter(({ key }) => actor.roles.includes(key)).map(({ register }) => register);
  return REGISTER_RIGHTS.findLast((right) => rights.includes(right)) ?? 'none';
}

/**
 * Whether an actor may look at a record: whoever acts on it, holds a role of one of the workflow's stages, or
 * of the intake where it waits, has a right to the register, or submitted it.
 */
export const maySee = (definition: Pick<Workflow, 'stages' | 'roles'>, record: WorkflowRecord, actor: Actor): boolean =>
  record.submittedBy === actor.id ||
  (record.assignee?.kind === 'member' && record.assignee.member === actor.id) ||
  (record.assignee?.kind === 'role' && actor.roles.includes(record.assignee.role)) ||
  definition.stages.some((stage) => (stage.kind !== 'intake' || stage.key === record.stage) && shares(stage.roles, actor)) ||
  registerRightOf(definition, actor) !== 'none';

/**
 * Whether an actor may read a field at all, treatments aside: of a confidential one, and of all it is made from, the actor
 * must be a reader. `part`: of a table, that sub-field.
 */
export const mayRead = (forms: CompiledForms, key: string, actor: Pick<Actor, 'roles'>, part?: string): boolean =>
  isReader(part === undefined ? forms.readers.of(key) : forms.readers.ofPart(key, part), actor.roles);

/**
 * Whether holders of some roles may read whatever a text of a workflow could hold: each of its confidential fields, and each
 * of the workflows its references lead to. A referenced workflow that isn't known could hold anything.
 */
export function readsEverything(
  { forms, findWorkflow }: Pick<CompiledWorkflow, 'forms' | 'findWorkflow'>,
  roles: readonly string[],
): boolean {
  const own = forms.fields.map(({ field }) => field);
  const parts = own.flatMap((field): readonly (Field | SubField)[] => (field.type === 'table' ? field.fields : [field]));
  const targets = new Set(parts.flatMap((field) => (field.type === 'reference' ? [field.workflow] : [])));
  const reads = (fields: readonly Field[]): boolean => isReader(listsOf(fields), roles);
  return (
    reads(own) &&
    [...targets].every((key) => {
      const target = findWorkflow(key);
      return target !== null && reads(target.fields);
    })
  );
}

const listsOf = (fields: readonly Field[]): Readers =>
  fields.flatMap(({ confidentialTo }) => (confidentialTo.length > 0 ? [confidentialTo] : []));
