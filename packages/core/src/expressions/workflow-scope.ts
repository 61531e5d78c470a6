import type { Field, SubField } from '../model/field.ts';
import type { FindDefinition } from '../model/lookup.ts';
import type { Workflow } from '../model/workflow.ts';
import type { Scope, ScopeEntry } from './scope.ts';
import { listOf, TYPES, type Type, type TypeOption, type Typing, typing, withOrigin } from './types.ts';

/** Finds another workflow's definition, for reading through references. */
export type FindWorkflow = FindDefinition;

const { text, number, boolean, date, time, dateTime } = TYPES;

const FILE: Type = {
  kind: 'context',
  entries: {
    name: typing(text, false),
    mediaType: typing(text, false),
    bytes: typing(number, false),
    sha256: typing(text, false),
  },
};
const SIGN_OFF: Type = {
  kind: 'context',
  entries: {
    by: typing(text, false),
    name: typing(text, false),
    at: typing(dateTime, false),
    sha256: typing(text, false),
    fields: typing(listOf(text), false),
  },
};

const typeCache = new WeakMap<Field | SubField, Type>();

/** The static type of a field's value. `depth` bounds how far references are read through. */
export function typeOfField(field: Field | SubField, findWorkflow: FindWorkflow, depth = 1): Type {
  const cached = field.type === 'reference' || field.type === 'table' ? undefined : typeCache.get(field);
  if (cached) return cached;
  const type = makeType(field, findWorkflow, depth);
  typeCache.set(field, type);
  return type;
}

function makeType(field: Field | SubField, findWorkflow: FindWorkflow, depth: number): Type {
  switch (field.type) {
    case 'text':
    case 'long-text':
    case 'member':
      return text;
    case 'number':
      return number;
    case 'money':
      return { kind: 'number', currency: field.currency };
    case 'yes-no':
      return boolean;
    case 'date':
      return date;
    case 'time':
      return time;
    case 'date-time':
      return dateTime;
    case 'choice':
      return { kind: 'choice', options: field.options };
    case 'multi-choice':
      return listOf({ kind: 'choice', options: field.options });
    case 'file':
      return listOf(FILE);
    case 'sign-off':
      return SIGN_OFF;
    case 'note':
      return TYPES.null;
    case 'table':
      return { kind: 'list', of: typing(entriesOf(field.fields, findWorkflow, depth), false) };
    case 'reference': {
      const target = depth > 0 ? findWorkflow(field.workflow) : null;
      return target ? entriesOf(target.fields, findWorkflow, depth - 1) : { kind: 'context', entries: {} };
    }
    default:
      return field satisfies never;
  }
}

const entriesOf = (fields: readonly (Field | SubField)[], findWorkflow: FindWorkflow, depth: number): Type => ({
  kind: 'context',
  entries: Object.fromEntries(fields.map((field) => [field.key, typingOfField(field, findWorkflow, depth)])),
});

/** A table is never null: no rows is the empty list. */
export const typingOfField = (field: Field | SubField, findWorkflow: FindWorkflow, depth = 1): Typing =>
  typing(typeOfField(field, findWorkflow, depth), field.type !== 'table');

const context = (entries: Record<string, Typing>): Typing => typing({ kind: 'context', entries }, false);

/** What stages, tracks and hand-offs are called in expressions: choices among the keys that the workflow has. */
export type KeyOptions = Readonly<Record<'stages' | 'tracks' | 'handOffs', readonly TypeOption[]>>;

const optionsOfKeys = (list: readonly { readonly key: string; readonly name: string }[]): readonly TypeOption[] =>
  list.map(({ key, name }) => ({ code: key, label: name }));

/** The names in scope beside the fields, in the order of their slots, which follow the fields' and decision tables'. */
export const SYSTEM_NAMES = ['record', 'actor', 'handoff', 'destination', 'followUps'] as const;
export type SystemName = (typeof SYSTEM_NAMES)[number];

/** The workflows whose records its hand-offs open, each once, with what is known of them. */
export function openedBy(
  { handOffs }: Pick<Workflow, 'handOffs'>,
  findWorkflow: FindWorkflow,
): readonly { readonly key: string; readonly fields: Workflow['fields'] | null }[] {
  const keys = new Set(handOffs.flatMap(({ followUps }) => followUps.map((followUp) => followUp.workflow)));
  return [...keys].map((key) => ({ key, fields: findWorkflow(key)?.fields ?? null }));
}

/** The follow-ups of a record, by workflow: rows with their fields. */
const followUpTypings = (workflow: Workflow, findWorkflow: FindWorkflow): Record<string, Typing> =>
  Object.fromEntries(
    openedBy(workflow, findWorkflow).map(({ key, fields }) => [
      key,
      typing({ kind: 'list', of: typing(entriesOf(fields ?? [], findWorkflow, 0), false) }, false),
    ]),
  );

const systemTypings = (
  { stages, tracks, handOffs }: KeyOptions,
  followUps: Record<string, Typing>,
): Readonly<Record<SystemName, Typing>> => ({
  record: context({
    id: typing(text, false),
    number: typing(text, true),
    stage: typing({ kind: 'choice', options: stages }, false),
    track: typing({ kind: 'choice', options: tracks }, true),
    createdAt: typing(dateTime, false),
    arrivedAt: typing(dateTime, false),
    due: typing(dateTime, true),
    version: typing(number, true),
    awaited: typing(number, false),
  }),
  actor: context({
    id: typing(text, false),
    name: typing(text, false),
    email: typing(text, true),
    roles: typing(listOf(text), false),
  }),
  handoff: context({ key: typing({ kind: 'choice', options: handOffs }, false), name: typing(text, false) }),
  destination: context({ key: typing({ kind: 'choice', options: stages }, false), name: typing(text, false) }),
  followUps: context({ ...followUps, open: typing(number, false), done: typing(number, false) }),
});

/** A workflow's scope: fields first, then decision tables, system names, and `row` for expressions of a table's rows. */
export type WorkflowScope = {
  readonly scope: Scope;
  readonly rowScopes: ReadonlyMap<string, Scope>;
  readonly systemSlots: Readonly<Record<SystemName, number>>;
  readonly rowSlot: number;
  readonly keyOptions: KeyOptions;
  readonly size: number;
};

/** Lays out the slots of a workflow. */
export function makeWorkflowScope(
  workflow: Workflow,
  decisionTypes: ReadonlyMap<string, Typing>,
  findWorkflow: FindWorkflow,
): WorkflowScope {
  const entries = new Map<string, ScopeEntry>();
  let slot = 0;
  for (const field of workflow.fields) {
    if (!entries.has(field.key))
      entries.set(field.key, { typing: withOrigin(typingOfField(field, findWorkflow), field.key), slot });
    slot += 1;
  }
  for (const table of workflow.decisionTables) {
    const found = decisionTypes.get(table.key) ?? typing(TYPES.any, true);
    if (!entries.has(table.key)) entries.set(table.key, { typing: withOrigin(found, table.key), slot });
    slot += 1;
  }
  const systemSlots = {} as Record<SystemName, number>;
  const keyOptions: KeyOptions = {
    stages: optionsOfKeys(workflow.stages),
    tracks: optionsOfKeys(workflow.tracks),
    handOffs: optionsOfKeys(workflow.handOffs),
  };
  const typings = systemTypings(keyOptions, followUpTypings(workflow, findWorkflow));
  for (const name of SYSTEM_NAMES) {
    entries.set(name, { typing: withOrigin(typings[name], name), slot });
    systemSlots[name] = slot;
    slot += 1;
  }
  const rowScopes = new Map<string, Scope>();
  for (const field of workflow.fields) {
    if (field.type !== 'table') continue;
    const row = withOrigin(typing(entriesOf(field.fields, findWorkflow, 1), false), 'row');
    rowScopes.set(field.key, { entries: new Map([...entries, ['row', { typing: row, slot }]]) });
  }
  return { scope: { entries }, rowScopes, systemSlots, rowSlot: slot, keyOptions, size: slot + 1 };
}
