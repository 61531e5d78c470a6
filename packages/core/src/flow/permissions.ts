import type { CompiledForms } from '../forms/compiled-forms.ts';
import { isReader } from '../forms/readers.ts';
import type { HandOff, Stage } from '../model/flow.ts';
import type { Actor, WorkflowRecord } from './record.ts';

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

/** Whether an actor may press a hand-off, its own condition aside. */
export const mayHandOn = (handOff: HandOff, stage: Stage, record: WorkflowRecord, actor: Actor): boolean =>
  mayAct(stage, record, actor) && (handOff.roles.length === 0 || shares(handOff.roles, actor));

/** Whether an actor may look at a record: whoever acts on it, holds a role of one of the workflow's stages, or submitted it. */
export const maySee = (stages: readonly Stage[], record: WorkflowRecord, actor: Actor): boolean =>
  record.submittedBy === actor.id ||
  (record.assignee?.kind === 'member' && record.assignee.member === actor.id) ||
  (record.assignee?.kind === 'role' && actor.roles.includes(record.assignee.role)) ||
  stages.some((stage) => stage.kind !== 'intake' && shares(stage.roles, actor));

/**
 * Whether an actor may read a field at all, treatments aside: of a confidential one, and of all it is made from, the actor
 * must be a reader. `part`: of a table, that sub-field.
 */
export const mayRead = (forms: CompiledForms, key: string, actor: Pick<Actor, 'roles'>, part?: string): boolean =>
  isReader(part === undefined ? forms.readers.of(key) : forms.readers.ofPart(key, part), actor.roles);
