import type { Frame } from '../expressions/frame.ts';
import type { Form } from '../forms/evaluate-form.ts';
import { isReader, type Readers } from '../forms/readers.ts';
import type { Json } from '../shared/json.ts';
import { type Filling, fillLine, fillTemplate } from '../templates/fill-template.ts';
import { isMailAddress } from '../values/mail-address.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import { nestProperties, type OutsideJson, toOutsideJson, writeFormValue, writeOutsideJson } from '../values/write-json.ts';
import type {
  CompiledDelivery,
  CompiledFile,
  CompiledMail,
  CompiledProperty,
  CompiledRecipient,
  CompiledWeb,
  CompiledWorkflow,
} from './compiled-workflow.ts';
import type {
  Address,
  DeliveryConsequence,
  FileConsequence,
  MailConsequence,
  SentFile,
  WebConsequence,
  Written,
} from './events.ts';
import { frameFor, type Moment } from './moment.ts';
import { type Actor, type Outside, type Reader, styleOf, type WorkflowRecord, writeValues } from './record.ts';
import { fieldToOutside, readableBy, type ShownValue, shownToAll, toEntries, writeCell } from './shown-values.ts';
import { Tracer } from './trace.ts';
import { makeWithholding } from './withheld.ts';

/** The deliveries of a list that hold: all, or the first. `owner`: the hand-off or stage whose list it is. */
export function sendOut(
  deliveries: readonly CompiledDelivery[],
  policy: 'all' | 'first',
  owner: string,
  moment: Moment,
): readonly DeliveryConsequence[] {
  const { frame, tracer } = moment;
  const sent: DeliveryConsequence[] = [];
  for (const compiled of deliveries) {
    const isTried = policy === 'all' || sent.length === 0;
    const outcome = !isTried ? 'not-tried' : compiled.condition.holds(frame) ? 'taken' : 'passed-over';
    tracer.note({ kind: 'delivery', owner, key: compiled.delivery.key }, compiled.condition, outcome, frame);
    if (outcome === 'taken') sent.push(...writeDelivery(compiled, moment));
  }
  return sent;
}

/**
 * A delivery as it would be sent, in as many mails as its receivers' rights ask for, with a record as it is now, whether it would be sent now or not: by the functions that write
 * the ones that are.
 */
export const previewDelivery = (compiled: CompiledDelivery, previewing: Previewing): readonly DeliveryConsequence[] =>
  writeDelivery(compiled, previewMoment(previewing));

/** The moment of a record at rest, with the values of its form. */
export function previewMoment({ workflow, record, form, actor, outside }: Previewing): Moment {
  const { json: values } = writeValues(workflow.forms, form.frame.slots, { json: record.values, values: form.given.stored });
  return { workflow, record: { ...record, values }, frame: form.frame, outside, actor, tracer: new Tracer(false) };
}

/** What a preview needs: a record with its form. */
export type Previewing = {
  readonly workflow: CompiledWorkflow;
  readonly record: WorkflowRecord;
  readonly form: Form;
  readonly actor: Actor;
  readonly outside: Outside;
};

function writeDelivery(compiled: CompiledDelivery, moment: Moment): readonly DeliveryConsequence[] {
  switch (compiled.kind) {
    case 'mail':
      return writeMails(compiled, moment);
    case 'web':
      return [writeWeb(compiled, moment)];
    case 'file':
      return [writeFile(compiled, moment)];
    default:
      return compiled satisfies never;
  }
}

/** A filling for texts that nobody reads in particular: the dispatch log shows them, so they tell nothing confidential. */
const openly = (moment: Moment): Filling =>
  fillingFor(
    moment,
    frameFor([], moment),
    () => false,
    () => [],
  );

function fillingFor(moment: Moment, frame: Frame, mayRead: (needed: Readers) => boolean, fields: Filling['fields']): Filling {
  const { rowSlot } = moment.workflow.forms.layout;
  return { frame, rowSlot, style: styleOf(moment.outside), isWithheld: makeWithholding(moment, frame, mayRead), fields };
}

/** The four lists of a mail, with the positions of recipients that can't be written to, counted from 1 through all of them. */
type Addressed = Pick<MailConsequence, 'to' | 'cc' | 'bcc' | 'replyTo' | 'unfit'> & {
  /** Receivers, as JSON, whose address was made from confidential values: the other receivers don't see them. */
  readonly apart: ReadonlySet<string>;
  /** Addresses that stand in values of the record. */
  readonly fromValues: ReadonlySet<string>;
};

function addressesOf(compiled: CompiledMail, { record, frame, outside, workflow }: Moment): Addressed {
  const unfit: number[] = [];
  const apart = new Set<string>();
  const fromValues = new Set<string>();
  let position = 0;
  const toUnfit = (): readonly Address[] => {
    unfit.push(position);
    return [];
  };
  const resolve = (compiledRecipient: CompiledRecipient): readonly Address[] => {
    const found = addressesFor(compiledRecipient);
    const { expression } = compiledRecipient;
    const isMadeInConfidence = expression !== null && workflow.forms.readers.ofExpression(expression.checked).length > 0;
    if (isMadeInConfidence) for (const one of found) apart.add(JSON.stringify(one));
    return found;
  };
  const addressesFor = ({ recipient, expression }: CompiledRecipient): readonly Address[] => {
    position += 1;
    const value = expression?.evaluate(frame) ?? null;
    const named = typeof value === 'string' ? value.trim() : '';
    switch (recipient.kind) {
      case 'role':
        return [{ kind: 'role', role: recipient.role }];
      case 'member':
        return [{ kind: 'member', member: recipient.member }];
      case 'submitter':
        return record.submittedBy === null ? [] : [{ kind: 'member', member: record.submittedBy }];
      case 'address':
        return isMailAddress(recipient.address) ? [{ kind: 'address', address: recipient.address }] : toUnfit();
      case 'member-of':
        if (named === '') return [];
        return outside.findMember(named) ? [{ kind: 'member', member: named }] : toUnfit();
      case 'role-of':
        if (named === '') return [];
        return workflow.definition.roles.some(({ key }) => key === named) ? [{ kind: 'role', role: named }] : toUnfit();
      case 'expression': {
        const found = addressesIn(value);
        if (found.isUnfit) toUnfit();
        for (const address of found.addresses) if (standsIn(record.values, address.toLowerCase())) fromValues.add(address);
        return found.addresses.map((address) => ({ kind: 'address', address }));
      }
      default:
        return recipient satisfies never;
    }
  };
  // Keep this order: `resolve` counts the receivers of all four lists in one sequence.
  const to = compiled.to.flatMap(resolve);
  const cc = compiled.cc.flatMap(resolve);
  const bcc = compiled.bcc.flatMap(resolve);
  const replyTo = compiled.replyTo.flatMap(resolve);
  return { to, cc, bcc, replyTo, unfit, apart, fromValues };
}

/**
 * Whether an address in small letters comes from a value: some text of it, be it in a list or a row, holds the address, or is
 * what stands before its @.
 */
function standsIn(value: Json, address: string): boolean {
  if (typeof value === 'string') {
    const text = value.toLowerCase();
    return text.includes(address) || address.startsWith(`${text}@`);
  }
  if (value === null || typeof value !== 'object') return false;
  return Object.values(value).some((part) => standsIn(part, address));
}

/** The parts of a mail that depend on what its receiver may read. */
type MailContents = Pick<MailConsequence, 'body' | 'attached' | 'files'>;

/**
 * The mails that a delivery comes to: one for all receivers who may read the same, further ones for others (semantics 7). A
 * member or role that may read more is told more, and nobody gets what is withheld from them. An address that was made from
 * confidential values gets a mail of its own, so that no other receiver sees it.
 */
function writeMails(compiled: CompiledMail, moment: Moment): readonly MailConsequence[] {
  const { delivery } = compiled;
  const { to, cc, bcc, replyTo, unfit, apart, fromValues } = addressesOf(compiled, moment);
  const common = {
    type: 'mail' as const,
    delivery: delivery.key,
    name: delivery.name,
    outlet: delivery.outlet,
    replyTo,
    senderName: fillLine(compiled.senderName, openly(moment), 'header'),
    // The subject stands in the dispatch log too, so it tells nothing confidential, and nothing of other records.
    subject: fillLine(compiled.subject, openly(moment), 'header'),
  };
  const groups = new Map<string, MailContents & { readonly receivers: Set<string> }>();
  for (const one of [...to, ...cc, ...bcc]) {
    const receiver = JSON.stringify(one);
    if ([...groups.values()].some(({ receivers }) => receivers.has(receiver))) continue;
    const contents = contentsFor(compiled, one.kind === 'address' ? null : one, moment);
    const group = JSON.stringify([contents, apart.has(receiver) ? receiver : null]);
    const known = groups.get(group) ?? { ...contents, receivers: new Set<string>() };
    known.receivers.add(receiver);
    groups.set(group, known);
  }
  // A mail to nobody waits for a person. Nothing is known of whoever it goes to then.
  if (groups.size === 0) return [{ ...common, to, cc, bcc, unfit, ...contentsFor(compiled, undefined, moment) }];
  return [...groups.values()].map(({ receivers, ...contents }, index) => {
    const own = (list: readonly Address[]): readonly Address[] => list.filter((one) => receivers.has(JSON.stringify(one)));
    const hides = [...receivers].some((one) => apart.has(one)) ? { hidesReceivers: true as const } : {};
    const chosen = [...to, ...cc, ...bcc].flatMap((one) =>
      one.kind === 'address' && fromValues.has(one.address) && receivers.has(JSON.stringify(one)) ? [one.address] : [],
    );
    const entered = chosen.length > 0 ? { fromValues: [...new Set(chosen)] } : {};
    return {
      ...common,
      to: own(to),
      cc: own(cc),
      bcc: own(bcc),
      unfit: index === 0 ? unfit : [],
      ...hides,
      ...entered,
      ...contents,
    };
  });
}

/** The parts of a mail as one receiver may read them. Null: an outside address; undefined: nobody is known. */
function contentsFor({ delivery, body }: CompiledMail, reader: Reader | null | undefined, moment: Moment): MailContents {
  const { record, outside, workflow } = moment;
  const readers = reader === undefined ? [] : [reader];
  const roles = reader ? rolesOf(reader, outside) : [];
  let shown: readonly ShownValue[] | null = null;
  const shownHere = (): readonly ShownValue[] => {
    shown ??= shownToAll(readers, moment);
    return shown;
  };
  const style = styleOf(outside);
  const mayRead = (needed: Readers): boolean => reader !== undefined && isReader(needed, roles);
  const filling = fillingFor(moment, frameFor(readers, moment), mayRead, () => toEntries(shownHere(), style));
  const title = `${workflow.definition.name} ${record.number ?? ''}`.trim();
  return {
    body: fillTemplate(body, filling),
    attached: delivery.attach === 'nothing' ? null : writeRecord(delivery.attach, title, shownHere(), moment),
    files: delivery.attachFiles ? filesIn(shownHere()) : [],
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

function rolesOf(reader: Reader, outside: Outside): readonly string[] {
  if (reader.kind === 'role') return [reader.role];
  return reader.kind === 'member' ? (outside.findMember(reader.member)?.roles ?? []) : reader.roles;
}

/** What an outlet reads as: whoever holds the roles that the delivery names. */
function asOutlet(roles: readonly string[], moment: Moment): Filling {
  const frame = frameFor(roles.length === 0 ? [] : [{ kind: 'roles', roles }], moment);
  const own = { ...moment, frame };
  const style = styleOf(moment.outside);
  return fillingFor(
    moment,
    frame,
    (needed) => isReader(needed, roles),
    () =>
      toEntries(
        readableBy(roles, own).filter(({ value }) => value !== null),
        style,
      ),
  );
}

function propertiesOf(list: readonly CompiledProperty[], filling: Filling): readonly (readonly [string, Value])[] {
  return list.map(({ property, value }) => {
    const isWithheld = filling.isWithheld({ expression: value, table: null });
    return [property.name, isWithheld ? null : value.evaluate(filling.frame)] as const;
  });
}

function writeWeb({ delivery, address, headers, properties }: CompiledWeb, moment: Moment): WebConsequence {
  const filling = asOutlet(delivery.readsAs, moment);
  const sent =
    properties.length > 0
      ? propertiesOf(properties, filling).map(([name, value]) => [name, toOutsideJson(value)] as const)
      : null;
  const whole = sent ?? recordProperties(readableBy(delivery.readsAs, { ...moment, frame: filling.frame }), moment);
  const isForm = delivery.encoding === 'form';
  return {
    type: 'web',
    delivery: delivery.key,
    name: delivery.name,
    outlet: delivery.outlet,
    method: delivery.method,
    // It stands in the dispatch log.
    address: fillLine(address, openly(moment), 'address'),
    headers: headers.map((own) => [own.header.name, fillLine(own.value, filling, 'header')] as const),
    mediaType: isForm ? 'application/x-www-form-urlencoded' : 'application/json',
    body: isForm ? writeForm(whole) : writeOutsideJson(sent ? nestProperties(whole) : { object: whole }),
    expects: delivery.expects,
    answers: delivery.answers.map(({ name, field }) => ({ name, field })),
  };
}

/** A form as browsers send it (WHATWG URL, section 5.2). */
const writeForm = (properties: readonly (readonly [string, OutsideJson])[]): string =>
  properties.map(([name, value]) => `${encodeForm(name)}=${encodeForm(writeFormValue(value))}`).join('&');

const encodeForm = (text: string): string =>
  encodeURIComponent(text)
    .replace(/%20/g, '+')
    .replace(/[!'()~]/g, (character) => `%${character.charCodeAt(0).toString(16).toUpperCase()}`);

/** The whole record: which it is, and its fields by key. */
function recordProperties(shown: readonly ShownValue[], { record }: Moment): readonly (readonly [string, OutsideJson])[] {
  const values = shown.map(({ field, value }) => [field.key, fieldToOutside(field, value)] as const);
  const { id, number, workflow, stage } = record;
  return [
    [
      'record',
      {
        object: [
          ['id', id],
          ['number', number],
          ['workflow', workflow],
          ['stage', stage],
        ],
      },
    ],
    ['values', { object: values }],
  ];
}

function writeFile({ delivery, folder, fileName, properties, body }: CompiledFile, moment: Moment): FileConsequence {
  const filling = asOutlet(delivery.readsAs, moment);
  const name = fillLine(fileName, openly(moment), 'file-name');
  return {
    type: 'file',
    delivery: delivery.key,
    name: delivery.name,
    outlet: delivery.outlet,
    folder: fillLine(folder, openly(moment), 'file-name'),
    fileName: name,
    exists: delivery.exists,
    written: writeContents(),
  };
  function writeContents(): Written {
    const own = { ...moment, frame: filling.frame };
    if (delivery.format === 'pdf') return { format: 'pdf', title: name, text: fillTemplate(body, filling) };
    if (properties.length === 0) return writeRecord(delivery.format, name, readableBy(delivery.readsAs, own), moment);
    const values = propertiesOf(properties, filling);
    if (delivery.format === 'csv') {
      const style = styleOf(moment.outside);
      return {
        format: 'csv',
        head: values.map(([column]) => column),
        row: values.map(([, value], index) => writeCell(value, properties[index]?.field ?? null, style)),
      };
    }
    const json = nestProperties(values.map(([column, value]) => [column, toOutsideJson(value)] as const));
    return { format: 'json', text: writeOutsideJson(json) };
  }
}

/** A record in a file, with what somebody is shown of it. */
function writeRecord(format: Written['format'], title: string, shown: readonly ShownValue[], moment: Moment): Written {
  const style = styleOf(moment.outside);
  switch (format) {
    case 'json':
      return { format, text: writeOutsideJson({ object: recordProperties(shown, moment) }) };
    case 'csv': {
      const { number } = moment.record;
      return {
        format,
        head: ['number', ...shown.map(({ field }) => field.key)],
        row: [number ?? '', ...shown.map(({ field, value }) => writeCell(value, field, style))],
      };
    }
    case 'pdf': {
      const entries = toEntries(
        shown.filter(({ value }) => value !== null),
        style,
      );
      return {
        format,
        title,
        text: [
          { kind: 'heading', level: 1, runs: [{ text: title }] },
          { kind: 'fields', entries },
        ],
      };
    }
    default:
      return format satisfies never;
  }
}

/** The files of a record that somebody is shown, each once. */
function filesIn(shown: readonly ShownValue[]): readonly SentFile[] {
  const files = new Map<string, SentFile>();
  const note = (type: string, value: Value): void => {
    if (type !== 'file' || !isList(value)) return;
    for (const { entries } of value as readonly ContextValue[]) {
      const { name, mediaType, bytes, sha256 } = toPlain(entries);
      if (typeof sha256 === 'string')
        files.set(`${sha256}/${name}`, { name, mediaType, bytes: Number(bytes), sha256 } as SentFile);
    }
  };
  for (const { field, value } of shown) {
    note(field.type, value);
    if (field.type !== 'table' || !isList(value)) continue;
    for (const { entries } of value as readonly ContextValue[])
      for (const own of field.fields) note(own.type, entries[own.key] ?? null);
  }
  return [...files.values()];
}

const toPlain = (entries: Readonly<Record<string, Value>>): Readonly<Record<string, unknown>> =>
  Object.fromEntries(
    Object.entries(entries).map(([key, value]) => {
      const json = toOutsideJson(value);
      return [key, json !== null && typeof json === 'object' && 'number' in json ? json.number : json];
    }),
  );
