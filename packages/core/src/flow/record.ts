import type { Environment } from '../expressions/builtins/builtin.ts';
import type { CompiledForms } from '../forms/compiled-forms.ts';
import type { FindRecord } from '../model/field-value.ts';
import { readFieldValue, writeFieldValue } from '../model/field-value.ts';
import { type Json, ownValue } from '../shared/json.ts';
import type { Style } from '../templates/format-value.ts';
import { exactInteger } from '../values/exact.ts';
import { inZone, readDateTime } from '../values/temporal.ts';
import type { Value } from '../values/value.ts';
import type { WorkingCalendar } from '../values/working-calendar.ts';
import { dueValue } from './due.ts';

/** Who has a record: a role of its stage, or one member. Null: whoever may act at the stage. */
export type Assignee = { readonly kind: 'role'; readonly role: string } | { readonly kind: 'member'; readonly member: string };

/** A record as it is stored. Values are JSON by field key, numbers as decimal text. */
export type WorkflowRecord = {
  readonly id: string;
  readonly number: string | null;
  readonly workflow: string;
  readonly version: number | null;
  readonly stage: string;
  /** The intake stage at which it began. */
  readonly intake: string | null;
  readonly track: string | null;
  readonly values: Readonly<Record<string, Json>>;
  /** Fields whose default is spent: a form has shown them. */
  readonly defaulted: readonly string[];
  readonly assignee: Assignee | null;
  readonly submittedBy: string | null;
  /** ISO 8601 instants. */
  readonly createdAt: string;
  readonly arrivedAt: string;
  /** When it is to be done at its stage: a day, or an instant in UTC; null where there is no such date. */
  readonly due: string | null;
  /** Reminders that were sent in this stay at its stage. */
  readonly reminded: readonly string[];
  readonly followUps: { readonly open: number; readonly done: number };
  /** Web requests whose answers are to be taken into the record and haven't been. */
  readonly awaited: number;
};

/** Who acts. Outside people who only submit have no roles. */
export type Actor = {
  readonly id: string;
  readonly name: string;
  readonly email: string | null;
  readonly roles: readonly string[];
};

/** Who acts where a hand-off happens by itself. It holds no roles: of other records it reads nothing. */
export const CLOCK: Actor = { id: 'clock', name: 'The clock', email: null, roles: [] };

/** The member who acts, by id; null for the clock, who is none. */
export const memberOf = (actor: Actor): string | null => (actor === CLOCK ? null : actor.id);

/** What is known of a member: whether there is one, and the roles. */
export type MemberFacts = { readonly id: string; readonly name: string; readonly roles: readonly string[] };

/** A member who could have the work: how many records wait for them, and when the stage's work last fell to them. */
export type Candidate = {
  readonly id: string;
  readonly roles: readonly string[];
  readonly load: number;
  /** An instant; null for never. */
  readonly lastAt: string | null;
};

/** What is known of a file that was taken in: its name and media type as it was handed over, its size as it was counted. */
export type FileFacts = { readonly name: string; readonly mediaType: string; readonly bytes: number };

/** Somebody whom a text goes to, for what may stand in it. */
export type Reader =
  | { readonly kind: 'role'; readonly role: string }
  | { readonly kind: 'member'; readonly member: string }
  /** Whoever holds all of these. */
  | { readonly kind: 'roles'; readonly roles: readonly string[] };

/**
 * The world outside a decision: everything that isn't the record. All of it answers at once; whoever has to fetch
 * something first answers null, fetches, and asks for the decision again.
 */
export type Outside = {
  /** Milliseconds since 1970-01-01T00:00Z. */
  readonly now: number;
  readonly zone: string;
  /** What working days and hours count in. */
  readonly calendar: WorkingCalendar;
  /** BCP 47 language for values in templates. */
  readonly locale: string;
  /** What the actor may read of another record. */
  readonly findRecord: FindRecord;
  /** What the actor may read of the records that were opened from one, in another workflow, oldest first. */
  readonly findFollowUps: (record: string, workflow: string) => readonly Readonly<Record<string, Value>>[];
  /** What somebody else may read of a record. */
  readonly findRecordFor: (reader: Reader, workflow: string, id: string) => Readonly<Record<string, Value>> | null;
  readonly findMember: (id: string) => MemberFacts | null;
  /** The members who hold a role, with what they have to do, and when a stage's work last fell to each. */
  readonly findCandidates: (role: string, workflow: string, stage: string) => readonly Candidate[];
  /** The number of a record that the actor may see. */
  readonly findRecordNumber: (id: string) => string | null;
  /** A file that the actor handed over before, by its SHA-256. */
  readonly findFile: (sha256: string) => FileFacts | null;
};

/** A world in which there are no other records, members or files. */
export const makeOutside = (of: Pick<Outside, 'now' | 'zone' | 'locale' | 'calendar'> & Partial<Outside>): Outside => ({
  findRecord: () => null,
  findFollowUps: () => [],
  findRecordFor: () => null,
  findMember: () => null,
  findCandidates: () => [],
  findRecordNumber: () => null,
  findFile: () => null,
  ...of,
});

/** What expressions know of the world. */
export const environmentOf = ({ now, zone, calendar }: Pick<Outside, 'now' | 'zone' | 'calendar'>): Environment => ({
  now,
  zone,
  calendar,
});

/** How values are written in texts: with the names of members and the numbers of records. */
export const styleOf = ({ locale, zone, findMember, findRecordNumber }: Outside): Style => ({
  locale,
  zone,
  nameOf: (id) => findMember(id)?.name ?? findRecordNumber(id),
});

/** The record's stored values by field slot. Values that no longer fit their field's type read as empty. */
export function readStoredValues(
  forms: CompiledForms,
  values: Readonly<Record<string, Json>>,
  outside: Pick<Outside, 'zone' | 'findRecord'>,
): readonly Value[] {
  return forms.fields.map(({ field }) => {
    const read = readFieldValue(field, Object.hasOwn(values, field.key) ? values[field.key] : null, outside);
    return read.ok ? read.value : field.type === 'table' ? [] : null;
  });
}

const NOTHING: ReadonlySet<number> = new Set();

/** The slots of fields that no form of the record has shown yet, so that their default is still due. */
export function defaultsDue(forms: CompiledForms, { defaulted }: Pick<WorkflowRecord, 'defaulted'>): ReadonlySet<number> {
  if (forms.filled.length === 0) return NOTHING;
  const spent = new Set(defaulted);
  return new Set(forms.filled.flatMap(({ field, slot }) => (spent.has(field.key) ? [] : [slot])));
}

/** What a record's values were read from, by field key, and what they were read as, by slot. */
export type StoredValues = { readonly json: Readonly<Record<string, Json>>; readonly values: readonly Value[] };

/** A record's values as they are stored, and the keys of those that are others than before. */
export type WrittenValues = { readonly json: Readonly<Record<string, Json>>; readonly changed: readonly string[] };

/**
 * Values by slot as JSON; empty ones are left out. A value that is still the one that was read stays as it was stored: most
 * do from one hand-off to the next.
 */
export function writeValues(forms: CompiledForms, values: readonly Value[], stored: StoredValues): WrittenValues {
  let result: Record<string, Json> | null = null;
  const changed: string[] = [];
  for (const { field, slot } of forms.fields) {
    const value = values[slot] ?? null;
    if (value === stored.values[slot]) continue;
    const json = writeFieldValue(field, value);
    const isNothing = json === null || (Array.isArray(json) && json.length === 0);
    const before = ownValue(stored.json, field.key);
    if (isNothing ? before === undefined : isSameJson(json, before)) continue;
    result ??= { ...stored.json };
    if (isNothing) delete result[field.key];
    else result[field.key] = json;
    changed.push(field.key);
  }
  return { json: result ?? stored.json, changed: changed.sort() };
}

const isSameJson = (a: Json | undefined, b: Json | undefined): boolean =>
  a === b || (typeof a === 'object' && typeof b === 'object' && JSON.stringify(a) === JSON.stringify(b));

const instants = new Map<string, Value>();
const MAX_INSTANTS = 1000;

/** An instant in a zone. A hand-off asks for the same ones again and again. */
function instantOf(text: string, zone: string): Value {
  const key = `${zone} ${text}`;
  const known = instants.get(key);
  if (known !== undefined) return known;
  const read = readDateTime(text, zone);
  const value = read && inZone(read, zone);
  if (instants.size >= MAX_INSTANTS) instants.clear();
  instants.set(key, value);
  return value;
}

/** Values of the system names for a record and who looks at it. */
export function systemValues(
  forms: CompiledForms,
  record: WorkflowRecord,
  actor: Actor,
  outside: Outside,
  more: { readonly handOff?: NamedKey; readonly destination?: NamedKey } = {},
): ReadonlyMap<number, Value> {
  const { systemSlots } = forms.layout;
  const named = (one: NamedKey | undefined): Value => context({ key: one?.key ?? null, name: one?.name ?? null });
  return new Map<number, Value>([
    [
      systemSlots.record,
      context({
        id: record.id,
        number: record.number,
        stage: record.stage,
        track: record.track,
        createdAt: instantOf(record.createdAt, outside.zone),
        arrivedAt: instantOf(record.arrivedAt, outside.zone),
        due: dueValue(record.due, outside.zone),
        version: record.version === null ? null : exactInteger(record.version),
        awaited: exactInteger(record.awaited),
      }),
    ],
    [systemSlots.actor, context({ id: actor.id, name: actor.name, email: actor.email, roles: actor.roles })],
    [systemSlots.handoff, named(more.handOff)],
    [systemSlots.destination, named(more.destination)],
    [systemSlots.followUps, followUpsOf(forms, record, outside)],
  ]);
}

/** How many follow-ups are open and done, and their fields by workflow. */
function followUpsOf({ opens }: CompiledForms, { id, followUps }: WorkflowRecord, outside: Outside): Value {
  const { open, done } = followUps;
  const rows = (workflow: string): Value =>
    open + done === 0 ? [] : outside.findFollowUps(id, workflow).map((entries) => ({ kind: 'context', id: null, entries }));
  return context({
    ...Object.fromEntries(opens.map((workflow) => [workflow, rows(workflow)])),
    open: exactInteger(open),
    done: exactInteger(done),
  });
}

export type NamedKey = { readonly key: string; readonly name: string };

const context = (entries: Record<string, Value>): Value => ({ kind: 'context', id: null, entries });
