import type { Stage } from '../model/flow.ts';
import { type DiagnosticCode, diagnostic } from '../shared/diagnostic.ts';
import { failure, type Result, success } from '../shared/result.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import type { RecordEvent } from './events.ts';
import { mayAct } from './permissions.ts';
import type { Actor, Assignee, Outside, WorkflowRecord } from './record.ts';

/** Taking work that a role has, giving it back, or handing it over to a colleague. */
export type Possession =
  | { readonly kind: 'take' }
  | { readonly kind: 'give-back' }
  | { readonly kind: 'hand-over'; readonly to: string };

export type Possessed = { readonly record: WorkflowRecord; readonly event: RecordEvent };

/**
 * Changes who has a record at its stage, without moving it. A record that the design gives to one member by name, or to its
 * submitter, is theirs alone: it can be handed over by them, not taken. Codes: `work/…`.
 */
export function possess(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  possession: Possession,
  actor: Actor,
  outside: Outside,
): Result<Possessed> {
  const stage = workflow.stages.get(record.stage)?.stage;
  if (!stage) return refuse('work/not-yours', record.stage);
  switch (possession.kind) {
    case 'take':
      return mayTake(stage, record, actor)
        ? changed(record, { kind: 'member', member: actor.id }, { type: 'taken', stage: stage.key })
        : refuse('work/not-to-take', stage.name);
    case 'give-back':
      return mayGiveBack(stage, record, actor)
        ? changed(record, roleOf(stage), { type: 'given-back', stage: stage.key })
        : refuse('work/not-yours', stage.name);
    case 'hand-over': {
      if (!mayHandOver(stage, record, actor)) return refuse('work/not-yours', stage.name);
      const { to } = possession;
      const member = outside.findMember(to);
      if (!member || !isOf(stage, member.roles) || to === actor.id) return refuse('work/cannot-act', stage.name);
      return changed(record, { kind: 'member', member: to }, { type: 'handed-over', stage: stage.key, member: to });
    }
    default:
      return possession satisfies never;
  }
}

const changed = (record: WorkflowRecord, assignee: Assignee | null, event: RecordEvent): Result<Possessed> =>
  success({ record: { ...record, assignee }, event });

const refuse = (code: Extract<DiagnosticCode, `work/${string}`>, stage: string): Result<never> =>
  failure([diagnostic(code, 'assignee', { stage })]);

const isOf = (stage: Stage, roles: readonly string[]): boolean => stage.roles.some((role) => roles.includes(role));

/** The role whose work it is where nobody in particular has it; null: the stage's own. */
const roleOf = ({ assignment }: Stage): Assignee | null =>
  assignment?.kind === 'role' ? { kind: 'role', role: assignment.role } : null;

const isHis = ({ assignee }: WorkflowRecord, { id }: Pick<Actor, 'id'>): boolean =>
  assignee?.kind === 'member' && assignee.member === id;

/** Whether an actor may take a record: one that a role of theirs has, or a colleague who got it as one of the role. */
export function mayTake(stage: Stage, record: WorkflowRecord, actor: Actor): boolean {
  if (stage.kind === 'end' || stage.kind === 'junction' || isHis(record, actor) || !isOf(stage, actor.roles)) return false;
  return record.assignee?.kind === 'member' ? stage.assignment?.kind !== 'member' : mayAct(stage, record, actor);
}

/** Whether an actor may give a record back to the role whose work it is. */
export const mayGiveBack = (stage: Stage, record: WorkflowRecord, actor: Actor): boolean =>
  isHis(record, actor) && stage.roles.length > 0 && stage.assignment?.kind !== 'member';

/** Whether an actor may hand a record over to a colleague who may act at its stage. */
export const mayHandOver = (stage: Stage, record: WorkflowRecord, actor: Actor): boolean =>
  stage.roles.length > 0 && stage.kind !== 'end' && mayAct(stage, record, actor);
