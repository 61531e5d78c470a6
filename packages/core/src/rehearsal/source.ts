import type { CompiledWorkflow } from '../flow/compiled-workflow.ts';
import { onlookAt } from '../flow/onlook.ts';
import type { Actor, Outside, Reader, WorkflowRecord } from '../flow/record.ts';
import type { Value } from '../values/value.ts';

/** The record that opened a rehearsed one, with its own workflow. */
export type Source = { readonly workflow: CompiledWorkflow; readonly record: WorkflowRecord };

type Values = Readonly<Record<string, Value>>;

/**
 * Adds the record that opened a rehearsed one to the world, as far as somebody may read it: what is read through the link
 * back is what that person's own form would show. Returns the world as it is where nothing opened the rehearsed record.
 */
export function withSource(outside: Outside, source: Source | null, actor: Actor): Outside {
  if (source === null) return outside;
  const known = new Map<string, Values | null>();
  // One person plays everybody in a rehearsal: only the role counts, not that they submitted the other record or have it.
  const record = { ...source.record, submittedBy: null, assignee: null };
  /** What somebody reads of it; null where they may not see it. */
  const seenBy = (onlooker: Actor): Values | null => {
    const key = JSON.stringify([onlooker.id, onlooker.roles]);
    const found = known.get(key);
    if (found !== undefined) return found;
    const onlook = onlookAt(source.workflow, record, onlooker, outside);
    const values = onlook && Object.fromEntries(onlook.values);
    known.set(key, values);
    return values;
  };
  const isIt = (workflow: string, id: string): boolean => id === source.record.id && workflow === source.record.workflow;
  const onlookerOf = (reader: Reader): Actor => {
    const nobody = { id: '', name: '', email: null };
    if (reader.kind === 'role') return { ...nobody, roles: [reader.role] };
    if (reader.kind === 'roles') return { ...nobody, roles: reader.roles };
    return { ...nobody, id: reader.member, roles: outside.findMember(reader.member)?.roles ?? [] };
  };
  return {
    ...outside,
    findRecord: (workflow, id) => (isIt(workflow, id) ? seenBy(actor) : outside.findRecord(workflow, id)),
    findRecordFor: (reader, workflow, id) =>
      isIt(workflow, id) ? seenBy(onlookerOf(reader)) : outside.findRecordFor(reader, workflow, id),
    findRecordNumber: (id) =>
      id === source.record.id ? (seenBy(actor) ? source.record.number : null) : outside.findRecordNumber(id),
  };
}
