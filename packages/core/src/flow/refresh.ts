import { limitsBroken } from '../forms/validate-form.ts';
import { readFieldValue } from '../model/field-value.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import type { RecordEvent, RefreshConsequence } from './events.ts';
import type { Actor, Outside, WorkflowRecord } from './record.ts';
import { TakingIn } from './take-in.ts';

/** A record with its carried values as they are now, and the event that says so; null where nothing changed or was left. */
export type Refreshed = { readonly record: WorkflowRecord; readonly event: RecordEvent | null };

/**
 * Puts carried values anew into a record that was opened earlier: into fields that nobody enters at the stage it is at by now,
 * read like entered values. What somebody enters there, and what a field can't hold, is left as it is, and the event says
 * which; values of fields that are gone are nobody's.
 */
export function refreshRecord(
  target: CompiledWorkflow,
  record: WorkflowRecord,
  { values }: Pick<RefreshConsequence, 'values'>,
  source: { readonly workflow: string; readonly record: string; readonly number: string | null },
  actor: Actor,
  outside: Outside,
): Refreshed {
  const taking = new TakingIn(target, record, actor, outside);
  const left: string[] = [];
  for (const [key, json] of Object.entries(values)) {
    const of = target.forms.fieldByKey.get(key);
    if (!of) continue;
    const read = readFieldValue(of.field, json, outside);
    const fits = read.ok && limitsBroken(of.field, read.value, of.field.name).length === 0;
    if (fits && taking.isOpenTo(of)) taking.put(of, read.value);
    // What stands there already is not left behind.
    else if (JSON.stringify(json) !== JSON.stringify(record.values[key] ?? null)) left.push(key);
  }
  const { record: after, changed } = taking.finish();
  const event: RecordEvent | null =
    changed.length + left.length === 0 ? null : { type: 'refreshed', by: source, changed, left: left.sort() };
  return { record: after, event };
}
