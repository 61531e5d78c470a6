import { makeFrame } from '../expressions/frame.ts';
import type { CompiledField } from '../forms/compiled-field.ts';
import type { Field } from '../model/field.ts';
import { readGivenValue, writeFieldValue } from '../model/field-value.ts';
import type { Json } from '../shared/json.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import type { CompiledFollowUp } from './compiled-workflow.ts';
import type { FollowUpConsequence, RefreshConsequence } from './events.ts';
import type { Moment } from './moment.ts';
import type { Assignee } from './record.ts';

/** The records to be opened elsewhere, once or for each row: all that hold, or the first. */
export function openFollowUps(
  list: readonly CompiledFollowUp[],
  policy: 'all' | 'first',
  owner: string,
  moment: Moment,
): readonly FollowUpConsequence[] {
  const opened: FollowUpConsequence[] = [];
  for (const compiled of list) {
    const { perRow } = compiled.followUp;
    if (policy === 'first' && opened.length > 0) {
      moment.tracer.note({ kind: 'follow-up', owner, key: compiled.followUp.key }, compiled.condition, 'not-tried', moment.frame);
      continue;
    }
    for (const [own, row] of momentsOf(perRow, moment)) opened.push(...openOne(compiled, owner, own, row));
  }
  return opened;
}

/** The moment once, or for each row of a table, with the row's id. */
function momentsOf(perRow: string | null, moment: Moment): readonly (readonly [moment: Moment, row: string | null])[] {
  if (perRow === null) return [[moment, null]];
  const { forms } = moment.workflow;
  const table = forms.fieldByKey.get(perRow) as CompiledField;
  const rows = moment.frame.slots[table.slot] ?? null;
  return (isList(rows) ? (rows as readonly ContextValue[]) : []).map((row) => {
    const slots = [...moment.frame.slots];
    slots[forms.layout.rowSlot] = row;
    return [{ ...moment, frame: makeFrame(slots, moment.frame.environment, moment.frame.overruns) }, row.id];
  });
}

/** The values that a record is opened with, as JSON by the target's fields. */
function carriedValues({ followUp, carried }: CompiledFollowUp, { frame, outside }: Moment): Readonly<Record<string, Json>> {
  const values: Record<string, Json> = {};
  for (const { set, field, value } of carried) {
    const found = carriedRows(value.evaluate(frame), field, followUp.carriesFiles);
    if (field && isKeptBack(field, followUp.carriesFiles)) continue;
    const read = field ? readGivenValue(field, found, outside) : null;
    // What the target can't hold goes along as it is: its own form says what is wrong with it.
    values[set.field] = writeFieldValue(field, read?.ok ? read.value : found);
  }
  return values;
}

function openOne(compiled: CompiledFollowUp, owner: string, moment: Moment, row: string | null): readonly FollowUpConsequence[] {
  const { followUp, condition, assignee } = compiled;
  const { frame, tracer } = moment;
  const isOpened = condition.holds(frame);
  tracer.note({ kind: 'follow-up', owner, key: followUp.key }, condition, isOpened ? 'taken' : 'passed-over', frame);
  if (!isOpened) return [];
  const { key, name, workflow, handOff, link } = followUp;
  const whom = followUp.assignee;
  const member = assignee?.evaluate(frame) ?? null;
  const assigned: Assignee | null =
    whom?.kind === 'role'
      ? { kind: 'role', role: whom.role }
      : typeof member === 'string' && member.trim() !== ''
        ? { kind: 'member', member: member.trim() }
        : null;
  const values = carriedValues(compiled, moment);
  return [{ type: 'follow-up', followUp: key, name, workflow, handOff, link, row, values, assignee: assigned }];
}

/**
 * The carried values of all follow-ups of a workflow as they are now, for records that were opened before. Which of these there
 * are, and whether they are open still, the server knows.
 */
export function refreshFollowUps(moment: Moment): readonly RefreshConsequence[] {
  return [...moment.workflow.handOffs.values()].flatMap(({ followUps }) =>
    followUps.flatMap((compiled): readonly RefreshConsequence[] => {
      const { key, workflow, perRow, carried } = compiled.followUp;
      if (carried.length === 0) return [];
      return momentsOf(perRow, moment).map(
        ([own, row]): RefreshConsequence => ({
          type: 'refresh',
          followUp: key,
          workflow,
          row,
          values: carriedValues(compiled, own),
        }),
      );
    }),
  );
}

/** Files and sign-offs stay where they are unless the follow-up says otherwise (semantics 5). */
export const isKeptBack = ({ type }: Pick<Field, 'type'>, carriesFiles: boolean): boolean =>
  !carriesFiles && (type === 'file' || type === 'sign-off');

/** Rows for a table of the target: its own columns, and an id for a row that has none. */
function carriedRows(value: Value, field: Field | null, carriesFiles: boolean): Value {
  if (field?.type !== 'table' || !isList(value)) return value;
  const own = field.fields.filter((column) => !isKeptBack(column as Field, carriesFiles));
  return (value as readonly (ContextValue | null)[]).flatMap((row, index): readonly ContextValue[] => {
    if (row === null || typeof row !== 'object' || row.kind !== 'context') return [];
    const entries = Object.fromEntries(own.map((column) => [column.key, row.entries[column.key] ?? null]));
    return [{ kind: 'context', id: row.id ?? `row${index + 1}`, entries }];
  });
}
