import type { Frame } from '../expressions/frame.ts';
import type { Assignment, Stage } from '../model/flow.ts';
import type { Workflow } from '../model/workflow.ts';
import type { CompiledStage } from './compiled-workflow.ts';
import type { Unassigned } from './events.ts';
import type { Assignee, Candidate, Outside } from './record.ts';

export type Assigned = { readonly assignee: Assignee | null; readonly unassigned: Unassigned | null };

const toNobody = (unassigned: Unassigned): Assigned => ({ assignee: null, unassigned });
const mayActAt = (stage: Stage, roles: readonly string[]): boolean =>
  stage.roles.length === 0 || stage.roles.some((role) => roles.includes(role));

/**
 * Who has a record on its arrival (semantics 4.6). Where the assignment yields nobody who may act there, the role that it names
 * for that has it, else the stage's roles, and the reason is told.
 */
export function assignAt(at: CompiledStage, frame: Frame, workflow: Workflow, outside: Outside): Assigned {
  const { assignment, kind } = at.stage;
  if (!assignment || kind === 'end' || kind === 'junction') return { assignee: null, unassigned: null };
  const assigned = assign(at, assignment, frame, workflow, outside);
  const { otherwise } = assignment;
  return assigned.assignee === null && otherwise !== null
    ? { ...assigned, assignee: { kind: 'role', role: otherwise } }
    : assigned;
}

function assign(
  { stage, assignee }: CompiledStage,
  assignment: Assignment,
  frame: Frame,
  workflow: Workflow,
  outside: Outside,
): Assigned {
  if (assignment.kind === 'role') return shared(assignment.role, assignment.share, stage, workflow, outside);
  const found = assignee?.evaluate(frame) ?? null;
  const name = typeof found === 'string' ? found.trim() : '';
  if (name === '') return toNobody('nobody');
  if (assignment.kind === 'role-of') {
    const isRole = workflow.roles.some(({ key }) => key === name);
    return isRole ? shared(name, assignment.share, stage, workflow, outside) : toNobody('unknown-role');
  }
  const member = outside.findMember(name);
  if (!member) return toNobody('unknown-member');
  return mayActAt(stage, member.roles)
    ? { assignee: { kind: 'member', member: name }, unassigned: null }
    : toNobody('without-role');
}

/** A role's work: everybody's, or that of one who holds the role and may act at the stage. */
function shared(
  role: string,
  share: 'everybody' | 'in-turn' | 'least-loaded',
  stage: Stage,
  { key }: Workflow,
  outside: Outside,
): Assigned {
  if (share === 'everybody') return { assignee: { kind: 'role', role }, unassigned: null };
  const able = outside.findCandidates(role, key, stage.key).filter(({ roles }) => mayActAt(stage, roles));
  const next = chooseMember(able, share);
  return next ? { assignee: { kind: 'member', member: next.id }, unassigned: null } : toNobody('nobody');
}

/**
 * Whose work it is: in turn, the one to whom it last fell longest ago; least loaded, the one for whom fewest records wait, and
 * of those the one whose turn it is. The same candidates give the same member, in whatever order they come.
 */
export function chooseMember(candidates: readonly Candidate[], share: 'in-turn' | 'least-loaded'): Candidate | null {
  const isBefore = (a: Candidate, b: Candidate): boolean => {
    if (share === 'least-loaded' && a.load !== b.load) return a.load < b.load;
    if (a.lastAt !== b.lastAt) return a.lastAt === null || (b.lastAt !== null && a.lastAt < b.lastAt);
    return a.id < b.id;
  };
  return candidates.reduce<Candidate | null>((best, own) => (best === null || isBefore(own, best) ? own : best), null);
}
