import { type Frame, makeFrame } from '../expressions/frame.ts';
import type { CompiledField } from '../forms/compiled-field.ts';
import { derive } from '../forms/derivation.ts';
import { isReader } from '../forms/readers.ts';
import { readGivenValue, writeFieldValue } from '../model/field-value.ts';
import type { Json } from '../shared/json.ts';
import { isMailAddress } from '../values/mail-address.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import type { CompiledAcknowledgement, CompiledDelivery, CompiledFollowUp, CompiledWorkflow } from './compiled-workflow.ts';
import type { Acknowledged, Address, FollowUpConsequence, MailConsequence } from './events.ts';
import { type Actor, type Outside, type Reader, styleOf, type WorkflowRecord } from './record.ts';
import { fillTemplate } from './template.ts';
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

/** The mails of a list that hold: all, or the first. `owner`: the hand-off or stage whose list it is. */
export function sendOut(
  deliveries: readonly CompiledDelivery[],
  policy: 'all' | 'first',
  owner: string,
  moment: Moment,
): readonly MailConsequence[] {
  const { frame, tracer } = moment;
  const sent: MailConsequence[] = [];
  for (const compiled of deliveries) {
    const isTried = policy === 'all' || sent.length === 0;
    const outcome = !isTried ? 'not-tried' : compiled.condition.holds(frame) ? 'taken' : 'passed-over';
    tracer.note({ kind: 'delivery', owner, key: compiled.delivery.key }, compiled.condition, outcome, frame);
    if (outcome === 'taken') sent.push(writeMail(compiled, moment));
  }
  return sent;
}

function writeMail({ delivery, to, subject, body }: CompiledDelivery, moment: Moment): MailConsequence {
  const { workflow, record, frame, outside } = moment;
  const unfit: number[] = [];
  const recipients = to.flatMap(({ recipient, expression }, index): readonly Address[] => {
    if (recipient.kind === 'role') return [{ kind: 'role', role: recipient.role }];
    if (recipient.kind === 'submitter')
      return record.submittedBy === null ? [] : [{ kind: 'member', member: record.submittedBy }];
    const found = addressesIn(expression?.evaluate(frame) ?? null);
    if (found.isUnfit) unfit.push(index + 1);
    return found.addresses.map((address) => ({ kind: 'address', address }));
  });
  const { readers } = workflow.forms;
  /** A mail reads as the least of its recipients may. */
  const mayRead = (needed: Parameters<typeof isReader>[0]): boolean =>
    recipients.length > 0 && recipients.every((one) => isReader(needed, rolesOf(one, outside)));
  const filling = { style: styleOf(outside), readers };
  return {
    type: 'mail',
    delivery: delivery.key,
    name: delivery.name,
    to: recipients,
    unfit,
    // The subject stands in the dispatch log too, so it tells nothing confidential, and nothing of other records.
    subject: fillTemplate(subject, { ...filling, frame: frameFor([], moment), medium: 'header', mayRead: () => false }),
    body: fillTemplate(body, { ...filling, frame: frameFor(recipients, moment), medium: 'plain', mayRead }),
  };
}

/** One text is one address; a list of texts holds one each. Empty ones are nobody, anything else is unfit. */
function addressesIn(value: Value): { readonly addresses: readonly string[]; readonly isUnfit: boolean } {
  const texts = (isList(value) ? value : [value])
    .filter((text) => typeof text === 'string')
    .map((text) => text.trim())
    .filter((text) => text !== '');
  const addresses = texts.filter(isMailAddress);
  return { addresses, isUnfit: addresses.length < texts.length };
}

function rolesOf(address: Address, outside: Outside): readonly string[] {
  if (address.kind === 'role') return [address.role];
  return address.kind === 'member' ? (outside.findMember(address.member)?.roles ?? []) : [];
}

/**
 * The frame in which a text for others is filled in: of a record that a reference points to it holds only what all of them
 * may read, whatever the acting person may. All that follows from it is worked out anew.
 */
function frameFor(recipients: readonly Address[], { workflow, frame, outside }: Moment): Frame {
  const { forms } = workflow;
  if (!forms.hasReferences) return frame;
  const readable = (target: string, reference: Value): Value => {
    if (reference === null) return null;
    const { id } = reference as ContextValue;
    return { kind: 'context', id, entries: entriesForAll(recipients, target, id ?? '', outside) };
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
  const own = makeFrame(slots, frame.environment, frame.overruns);
  derive(forms.derivation, slots, own, null);
  return own;
}

function entriesForAll(recipients: readonly Address[], workflow: string, id: string, outside: Outside): Record<string, Value> {
  const all = recipients.map((one) => (one.kind === 'address' ? null : outside.findRecordFor(one as Reader, workflow, id)));
  const [first, ...rest] = all;
  if (!first || rest.includes(null)) return {};
  const shared = Object.entries(first).filter(([key]) => rest.every((one) => one !== null && Object.hasOwn(one, key)));
  return Object.fromEntries(shared);
}

/** The first acknowledgement whose condition holds, else the one without a condition, wherever it is listed. */
export function acknowledge(list: readonly CompiledAcknowledgement[], owner: string, moment: Moment): Acknowledged | null {
  const { workflow, frame, outside, actor, tracer } = moment;
  const tried = [...list.filter((one) => one.condition.expression), ...list.filter((one) => !one.condition.expression)];
  let found: Acknowledged | null = null;
  for (const { acknowledgement, condition, text } of tried) {
    const isTried = found === null;
    const outcome = !isTried ? 'not-tried' : condition.holds(frame) ? 'taken' : 'passed-over';
    tracer.note({ kind: 'acknowledgement', owner, key: acknowledgement.key }, condition, outcome, frame);
    if (outcome !== 'taken') continue;
    const { readers } = workflow.forms;
    const filling = { frame, style: styleOf(outside), medium: 'plain', readers } as const;
    found = { text: fillTemplate(text, { ...filling, mayRead: (needed) => isReader(needed, actor.roles) }) };
  }
  return found;
}

/** The records to be opened elsewhere, once or for each row. */
export function openFollowUps(list: readonly CompiledFollowUp[], owner: string, moment: Moment): readonly FollowUpConsequence[] {
  return list.flatMap((compiled) => {
    const { perRow } = compiled.followUp;
    return perRow === null ? openOne(compiled, owner, moment, null) : openForRows(compiled, owner, moment, perRow);
  });
}

function openForRows(compiled: CompiledFollowUp, owner: string, moment: Moment, perRow: string): readonly FollowUpConsequence[] {
  const { forms } = moment.workflow;
  const table = forms.fieldByKey.get(perRow) as CompiledField;
  const slots = [...moment.frame.slots];
  const frame = makeFrame(slots, moment.frame.environment, moment.frame.overruns);
  const rows = slots[table.slot] ?? null;
  return (isList(rows) ? (rows as readonly ContextValue[]) : []).flatMap((row) => {
    slots[forms.layout.rowSlot] = row;
    return openOne(compiled, owner, { ...moment, frame }, row.id);
  });
}

function openOne(
  { followUp, condition, carried }: CompiledFollowUp,
  owner: string,
  { frame, outside, tracer }: Moment,
  row: string | null,
): readonly FollowUpConsequence[] {
  const isOpened = condition.holds(frame);
  tracer.note({ kind: 'follow-up', owner, key: followUp.key }, condition, isOpened ? 'taken' : 'passed-over', frame);
  if (!isOpened) return [];
  const values: Record<string, Json> = {};
  for (const { set, field, value } of carried) {
    const found = value.evaluate(frame);
    const read = field ? readGivenValue(field, found, outside) : null;
    // What the target can't hold goes along as it is: its own form says what is wrong with it.
    values[set.field] = writeFieldValue(field, read?.ok ? read.value : found);
  }
  const { key, workflow, handOff, link } = followUp;
  return [{ type: 'follow-up', followUp: key, workflow, handOff, link, row, values }];
}
