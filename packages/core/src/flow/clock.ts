import type { CompiledWorkflow } from './compiled-workflow.ts';
import { type Counting, countDue, offsetFrom } from './due.ts';
import { fillForm } from './enter-input.ts';
import type { DeliveryConsequence, RecordEvent } from './events.ts';
import { type Actor, CLOCK, type Outside, type WorkflowRecord } from './record.ts';
import { previewMoment, sendOut } from './send-out.ts';

/** What the clock does with a record at an instant (milliseconds since 1970): it reminds of it, or hands it on. */
export type ClockMoment =
  | { readonly kind: 'reminder'; readonly reminder: string; readonly at: number }
  | { readonly kind: 'hand-off'; readonly handOff: string; readonly at: number };

/**
 * What the clock is still to do with a record at its stage, in the order of time: reminders that weren't sent yet in this
 * stay, and hand-offs that happen by themselves. A reminder whose time was past when the record arrived is none: whoever has
 * it has just been told.
 */
export function clockMoments(
  workflow: Pick<CompiledWorkflow, 'stages'>,
  { stage, due, reminded, arrivedAt }: Pick<WorkflowRecord, 'stage' | 'due' | 'reminded' | 'arrivedAt'>,
  counting: Counting,
): readonly ClockMoment[] {
  const at = workflow.stages.get(stage);
  if (!at || due === null) return [];
  const arrived = Date.parse(arrivedAt);
  const reminders = at.stage.reminders.flatMap(({ key, offset }): ClockMoment[] => {
    const when = reminded.includes(key) ? null : offsetFrom(due, offset, 'opening', counting);
    return when === null || when < arrived ? [] : [{ kind: 'reminder', reminder: key, at: when }];
  });
  const handOffs = at.handOffs.flatMap(({ handOff: { key, byClock } }): ClockMoment[] => {
    const when = byClock && offsetFrom(due, byClock.offset, 'end', counting);
    return when === null ? [] : [{ kind: 'hand-off', handOff: key, at: when }];
  });
  return [...reminders, ...handOffs].sort((a, b) => a.at - b.at);
}

/** The record with its stage's due date counted, as if it had just arrived there. */
export function withDue(workflow: CompiledWorkflow, record: WorkflowRecord, actor: Actor, outside: Outside): WorkflowRecord {
  const at = workflow.stages.get(record.stage);
  if (!at?.due) return record;
  const { form } = fillForm(workflow, { ...record, due: null }, {}, actor, outside);
  return { ...record, due: countDue(at, record, form.frame, () => {}) };
}

/** A record that was reminded of, with what is sent. */
export type Reminded = {
  readonly record: WorkflowRecord;
  readonly event: RecordEvent;
  readonly deliveries: readonly DeliveryConsequence[];
};

/** Sends a reminder of the record's stage: those of its deliveries that hold for the record as it is. Null: there is none of that key. */
export function remind(workflow: CompiledWorkflow, record: WorkflowRecord, key: string, outside: Outside): Reminded | null {
  const found = workflow.stages.get(record.stage)?.reminders.find(({ reminder }) => reminder.key === key);
  if (!found) return null;
  const { form } = fillForm(workflow, record, {}, CLOCK, outside);
  const moment = previewMoment({ workflow, record, form, actor: CLOCK, outside });
  const deliveries = sendOut(found.deliveries, found.reminder.deliveryPolicy, key, moment);
  return {
    record: { ...record, reminded: [...record.reminded, key] },
    event: { type: 'reminded', stage: record.stage, reminder: key, sent: deliveries.length },
    deliveries,
  };
}
