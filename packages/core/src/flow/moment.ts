import { type Frame, makeFrame } from '../expressions/frame.ts';
import { derive } from '../forms/derivation.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import type { Actor, Outside, Reader, WorkflowRecord } from './record.ts';
import type { Tracer } from './trace.ts';

/** The moment at which something follows: the record and all values as they are then. */
export type Moment = {
  readonly workflow: CompiledWorkflow;
  readonly record: WorkflowRecord;
  readonly frame: Frame;
  readonly outside: Outside;
  readonly actor: Actor;
  readonly tracer: Tracer;
};

/**
 * The frame in which a text for others is filled in: of a record that a reference points to it holds only what all of them
 * may read, whatever the acting person may; null is somebody of whom nothing is known. All that follows is worked out anew.
 */
export function frameFor(readers: readonly (Reader | null)[], { workflow, record, frame, outside }: Moment): Frame {
  const { forms } = workflow;
  const hasFollowUps = forms.opens.length > 0 && record.followUps.open + record.followUps.done > 0;
  if (!forms.hasReferences && !hasFollowUps) return frame;
  const readable = (target: string, reference: Value): Value => {
    if (reference === null) return null;
    const { id } = reference as ContextValue;
    return { kind: 'context', id, entries: entriesForAll(readers, target, id ?? '', outside) };
  };
  const slots = [...frame.slots];
  for (const { field, slot, subFields } of forms.fields) {
    if (field.type === 'reference') slots[slot] = readable(field.workflow, slots[slot] ?? null);
    const rows = slots[slot] ?? null;
    if (field.type !== 'table' || !isList(rows)) continue;
    const references = subFields.flatMap(({ field: own }) => (own.type === 'reference' ? [own] : []));
    if (references.length === 0) continue;
    slots[slot] = (rows as readonly ContextValue[]).map((row) => {
      const cells = references.map((own) => [own.key, readable(own.workflow, row.entries[own.key] ?? null)] as const);
      return { ...row, entries: { ...row.entries, ...Object.fromEntries(cells) } };
    });
  }
  if (hasFollowUps) {
    // Of follow-ups a text tells how many there are: who may read which field of them isn't the same for everybody.
    const slot = forms.layout.systemSlots.followUps;
    const { entries } = slots[slot] as ContextValue;
    const { open = null, done = null } = entries;
    const nothing = Object.fromEntries(forms.opens.map((key) => [key, []]));
    slots[slot] = { kind: 'context', id: null, entries: { ...nothing, open, done } };
  }
  const own = makeFrame(slots, frame.environment, frame.overruns);
  derive(forms.derivation, slots, own, null);
  return own;
}

function entriesForAll(
  readers: readonly (Reader | null)[],
  workflow: string,
  id: string,
  outside: Outside,
): Record<string, Value> {
  const all = readers.map((one) => (one === null ? null : outside.findRecordFor(one, workflow, id)));
  const [first, ...rest] = all;
  if (!first || rest.includes(null)) return {};
  const shared = Object.entries(first).filter(([key]) => rest.every((one) => one !== null && Object.hasOwn(one, key)));
  return Object.fromEntries(shared);
}
