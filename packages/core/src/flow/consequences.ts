import type { Frame } from '../expressions/frame.ts';
import type { CompiledField } from '../forms/compile-forms.ts';
import { writeFieldValue } from '../model/field-value.ts';
import type { Json } from '../shared/json.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import type { CompiledDelivery, CompiledFollowUp, CompiledHandOff, CompiledStage, CompiledWorkflow } from './compile-workflow.ts';
import type { Acknowledged, Address, FollowUpConsequence, HandedOn, MailConsequence, TraceStep } from './events.ts';
import type { Actor, Outside, WorkflowRecord } from './record.ts';
import { fillTemplate } from './template.ts';

type Arrived = {
  readonly record: WorkflowRecord;
  readonly handOff: CompiledHandOff;
  readonly to: CompiledStage;
  readonly frame: Frame;
  readonly outside: Outside;
  readonly actor: Actor;
  readonly trace: TraceStep[];
};

/** What follows a hand-off, with the values after all sets (semantics 4.7). */
export function consequencesOf(
  workflow: CompiledWorkflow,
  arrived: Arrived,
): Pick<HandedOn, 'deliveries' | 'followUps' | 'acknowledgement'> {
  const { handOff, to } = arrived;
  return {
    deliveries: [
      ...sendOut(handOff.deliveries, handOff.handOff.deliveryPolicy, handOff.handOff.key, arrived),
      ...sendOut(to.deliveries, to.stage.onArrival.deliveryPolicy, to.stage.key, arrived),
    ],
    followUps: handOff.followUps.flatMap((followUp) => openFollowUps(workflow, followUp, arrived)),
    acknowledgement: acknowledge(arrived),
  };
}

function sendOut(
  deliveries: readonly CompiledDelivery[],
  policy: 'all' | 'first',
  owner: string,
  arrived: Arrived,
): readonly MailConsequence[] {
  const sent: MailConsequence[] = [];
  for (const compiled of deliveries) {
    const truth = compiled.condition.holds(arrived.frame);
    const taken = truth === true && (policy === 'all' || sent.length === 0);
    arrived.trace.push({ kind: 'delivery', owner, key: compiled.delivery.key, truth, taken });
    if (taken) sent.push(writeMail(compiled, arrived));
  }
  return sent;
}

function writeMail({ delivery, to, subject, body }: CompiledDelivery, { record, frame, outside }: Arrived): MailConsequence {
  const recipients = to.flatMap(({ recipient, expression }): readonly Address[] => {
    if (recipient.kind === 'role') return [{ kind: 'role', role: recipient.role }];
    if (recipient.kind === 'submitter')
      return record.submittedBy === null ? [] : [{ kind: 'member', member: record.submittedBy }];
    const address = expression?.evaluate(frame) ?? null;
    return typeof address === 'string' && address !== '' ? [{ kind: 'address', address }] : [];
  });
  /** A mail reads as the least of its recipients may. Its subject stands in the dispatch log too, so it tells nothing confidential. */
  const mayRead = (readers: readonly string[]): boolean =>
    recipients.length > 0 && recipients.every((one) => one.kind === 'role' && readers.includes(one.role));
  return {
    type: 'mail',
    delivery: delivery.key,
    name: delivery.name,
    to: recipients,
    subject: fillTemplate(subject, frame, outside, 'header', () => false),
    body: fillTemplate(body, frame, outside, 'plain', mayRead),
  };
}

/** The first acknowledgement that holds; one without a condition always does. */
function acknowledge({ handOff, frame, outside, actor, trace }: Arrived): Acknowledged | null {
  const mayRead = (readers: readonly string[]): boolean => readers.some((role) => actor.roles.includes(role));
  let found: Acknowledged | null = null;
  for (const { acknowledgement, condition, text } of handOff.acknowledgements) {
    const truth = condition.holds(frame);
    const taken = truth === true && found === null;
    trace.push({ kind: 'acknowledgement', owner: handOff.handOff.key, key: acknowledgement.key, truth, taken });
    if (taken) found = { text: fillTemplate(text, frame, outside, 'plain', mayRead) };
  }
  return found;
}

function openFollowUps(workflow: CompiledWorkflow, compiled: CompiledFollowUp, arrived: Arrived): readonly FollowUpConsequence[] {
  const { followUp } = compiled;
  const { frame } = arrived;
  if (followUp.perRow === null) return openOne(compiled, arrived, null);
  const table = workflow.forms.fieldByKey.get(followUp.perRow) as CompiledField;
  const rows = frame.slots[table.slot] as Value;
  const slots = frame.slots as Value[];
  const opened = (isList(rows) ? (rows as readonly ContextValue[]) : []).flatMap((row) => {
    slots[workflow.forms.layout.rowSlot] = row;
    return openOne(compiled, arrived, row.id);
  });
  slots[workflow.forms.layout.rowSlot] = null;
  return opened;
}

function openOne(
  { followUp, condition, carried }: CompiledFollowUp,
  { frame, handOff, trace }: Arrived,
  row: string | null,
): readonly FollowUpConsequence[] {
  const truth = condition.holds(frame);
  trace.push({ kind: 'follow-up', owner: handOff.handOff.key, key: followUp.key, truth, taken: truth === true });
  if (truth !== true) return [];
  const values: Record<string, Json> = {};
  for (const { field, value } of carried) values[field] = writeFieldValue(null, value.evaluate(frame));
  return [
    {
      type: 'follow-up',
      followUp: followUp.key,
      workflow: followUp.workflow,
      handOff: followUp.handOff,
      link: followUp.link,
      row,
      values,
    },
  ];
}
