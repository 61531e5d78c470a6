import { isReader } from '../forms/readers.ts';
import { type Filling, fillLine, fillTemplate } from '../templates/fill-template.ts';
import type { CompiledAcknowledgement } from './compiled-workflow.ts';
import type { Acknowledged, MailConsequence } from './events.ts';
import type { Moment } from './moment.ts';
import { styleOf } from './record.ts';
import { shownTo, toEntries } from './shown-values.ts';
import { makeWithholding } from './withheld.ts';

/** The first acknowledgement whose condition holds, else the one without a condition, wherever it is listed. */
export function acknowledge(list: readonly CompiledAcknowledgement[], owner: string, moment: Moment): Acknowledged | null {
  const { frame, tracer } = moment;
  const tried = [...list.filter((one) => one.condition.expression), ...list.filter((one) => !one.condition.expression)];
  let found: Acknowledged | null = null;
  for (const { acknowledgement, condition, text, next } of tried) {
    const isTried = found === null;
    const outcome = !isTried ? 'not-tried' : condition.holds(frame) ? 'taken' : 'passed-over';
    tracer.note({ kind: 'acknowledgement', owner, key: acknowledgement.key }, condition, outcome, frame);
    if (outcome !== 'taken') continue;
    const filling = fillingFor(moment);
    const address = fillLine(next, filling, 'address');
    found = { acknowledgement: acknowledgement.key, text: fillTemplate(text, filling), next: address === '' ? null : address };
  }
  return found;
}

/** What a text for whoever acts is filled in with: what they may read of a record at a moment. */
export function fillingFor(moment: Moment): Filling {
  const { workflow, frame, outside, actor } = moment;
  const style = styleOf(outside);
  return {
    frame,
    rowSlot: workflow.forms.layout.rowSlot,
    style,
    isWithheld: makeWithholding(moment, frame, (needed) => isReader(needed, actor.roles)),
    fields: () => toEntries(shownTo([actor], moment), style),
  };
}

/** What is read, as a mail to whoever pressed, where the design says so; it holds what they may read. */
export function mailOf(
  { acknowledgement, text }: Acknowledged,
  list: readonly CompiledAcknowledgement[],
  { workflow, record, actor }: Moment,
): MailConsequence | null {
  const own = list.find((one) => one.acknowledgement.key === acknowledgement)?.acknowledgement;
  if (!own?.mailed) return null;
  return {
    type: 'mail',
    delivery: own.key,
    name: own.name || own.key,
    outlet: 'mail',
    to: [{ kind: 'member', member: actor.id }],
    cc: [],
    bcc: [],
    replyTo: [],
    unfit: [],
    senderName: '',
    subject: `${workflow.definition.name} ${record.number ?? ''}`.trim(),
    body: text,
    attached: null,
    files: [],
  };
}
