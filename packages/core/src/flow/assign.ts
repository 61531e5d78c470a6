import type { Frame } from '../expressions/frame.ts';
import type { Workflow } from '../model/workflow.ts';
import type { CompiledStage } from './compiled-workflow.ts';
import type { Unassigned } from './events.ts';
import type { Assignee, Outside } from './record.ts';

export type Assigned = { readonly assignee: Assignee | null; readonly unassigned: Unassigned | null };

const toNobody = (unassigned: Unassigned): Assigned => ({ assignee: null, unassigned });

/**
 * Who has a record on its arrival (semantics 4.6). Where the assignment yields nobody who may act there, the stage's roles
 * have it, and the reason is told.
 */
export function assignAt({ stage, assignee }: CompiledStage, frame: Frame, workflow: Workflow, outside: Outside): Assigned {
  const { assignment } = stage;
  if (!assignment || stage.kind === 'end' || stage.kind === 'junction') return { assignee: null, unassigned: null };
  if (assignment.kind === 'role') return { assignee: { kind: 'role', role: assignment.role }, unassigned: null };
  const found = assignee?.evaluate(frame) ?? null;
  const name = typeof found === 'string' ? found.trim() : '';
  if (name === '') return toNobody('nobody');
  if (assignment.kind === 'role-of') {
    const isRole = workflow.roles.some(({ key }) => key === name);
    return isRole ? { assignee: { kind: 'role', role: name }, unassigned: null } : toNobody('unknown-role');
  }
  const member = outside.findMember(name);
  if (!member) return toNobody('unknown-member');
  const mayAct = stage.roles.length === 0 || stage.roles.some((role) => member.roles.includes(role));
  return mayAct ? { assignee: { kind: 'member', member: name }, unassigned: null } : toNobody('without-role');
}
