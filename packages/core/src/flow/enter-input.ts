import type { CompiledField } from '../forms/compiled-field.ts';
import { canBeShown } from '../forms/compiled-forms.ts';
import { derive } from '../forms/derivation.ts';
import { decidedOf, evaluateForm, type Form } from '../forms/evaluate-form.ts';
import type { Field, SubField } from '../model/field.ts';
import { readFieldValue, readFieldValueSoFar, writeFieldValue } from '../model/field-value.ts';
import { isEnterable } from '../model/treatment.ts';
import { type Diagnostic, type DiagnosticCode, diagnostic } from '../shared/diagnostic.ts';
import type { Json } from '../shared/json.ts';
import { failure, type Result, success } from '../shared/result.ts';
import { term } from '../shared/terms.ts';
import { findInteger } from '../values/exact.ts';
import { type ContextValue, equalValues, isList, type Value } from '../values/value.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import { mayRead } from './permissions.ts';
import {
  type Actor,
  defaultsDue,
  environmentOf,
  type Outside,
  readStoredValues,
  systemValues,
  type WorkflowRecord,
} from './record.ts';
import { beginSignOff, isSignRequest, signForm } from './sign-off.ts';

/** What a participant sends with a hand-off: values by field key, as JSON. */
export type HandOffInput = Readonly<Record<string, Json>>;

/** Things wrong that are named at once. */
const MAX_NAMED = 100;

/**
 * Evaluates a record's form with what an actor entered, refusing by name whatever may not be entered (semantics 4.2). A
 * field that this actor isn't shown here is refused as if there were none. Members, records and files must be there and
 * open to the actor; a sign-off is set down here, whatever was sent as one.
 * Codes: `value/…`, `hand-off/unknown-field`, `hand-off/may-not-enter`.
 */
export function enterInput(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  input: HandOffInput,
  actor: Actor,
  outside: Outside,
): Result<Form> {
  const { forms } = workflow;
  const stored = readStoredValues(forms, record.values, outside);
  const values = new Map<number, Value>();
  const unread = new Map<string, Diagnostic>();
  const signed: CompiledField[] = [];
  const keys = Object.keys(input);
  for (const key of keys) {
    const of = forms.fieldByKey.get(key);
    if (!of) continue;
    const json = input[key] as Json;
    const read = readEntered(of, json, stored[of.slot] ?? null, actor, outside);
    if (!read.ok) unread.set(key, read.diagnostic);
    else values.set(of.slot, read.value);
    if (of.field.type === 'sign-off' && isSignRequest(json)) signed.push(of);
  }
  const form = evaluateForm(forms, record.stage, {
    stored,
    input: values,
    due: defaultsDue(forms, record),
    system: systemValues(forms, record, actor, outside),
    environment: environmentOf(outside),
  });
  const refused: Diagnostic[] = [];
  for (const key of keys) {
    if (refused.length >= MAX_NAMED) break;
    refused.push(...refusalsOf(form, key, actor, values, unread, outside));
  }
  if (refused.length > 0) return failure(refused.slice(0, MAX_NAMED));
  for (const of of signed) setDown(form, of, actor);
  return success(form);
}

/** A form with what was entered so far, and by field key what of it can't be read and counts as empty: values, or cells of rows. */
export type FilledForm = { readonly form: Form; readonly unreadable: ReadonlyMap<string, readonly Diagnostic[]> };

/** Evaluates a form while it is filled in: nothing is refused, what can't be entered as the form stands has no effect. */
export function fillForm(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  entered: HandOffInput,
  actor: Actor,
  outside: Outside,
): FilledForm {
  const { forms } = workflow;
  const stored = readStoredValues(forms, record.values, outside);
  const input = new Map<number, Value>();
  const unreadable = new Map<string, readonly Diagnostic[]>();
  for (const [key, json] of Object.entries(entered)) {
    const of = forms.fieldByKey.get(key);
    if (!of) continue;
    const { value, unread } = readEnteredSoFar(of, json, stored[of.slot] ?? null, actor, outside);
    input.set(of.slot, value);
    if (unread.length > 0) unreadable.set(key, unread);
  }
  const form = evaluateForm(forms, record.stage, {
    stored,
    input,
    due: defaultsDue(forms, record),
    system: systemValues(forms, record, actor, outside),
    environment: environmentOf(outside),
  });
  return { form, unreadable };
}

/** Reads what was entered into a field. A sign-off is begun by asking for one; one that is there can be sent again. */
export function readEntered(
  { field }: Pick<CompiledField, 'field'>,
  json: Json,
  stored: Value,
  actor: Actor,
  outside: Outside,
): ReturnType<typeof readFieldValue> {
  if (field.type !== 'sign-off') return readFieldValue(field, json, outside);
  if (isSignRequest(json)) return { ok: true, value: beginSignOff(actor, outside) };
  if (isSameJson(json, writeFieldValue(field, stored))) return { ok: true, value: json === null ? null : stored };
  return { ok: false, diagnostic: diagnostic('value/wrong-type', field.key, { expected: term('value/sign') }) };
}

/** Reads what was entered into a field so far: what can't be read counts as empty and is named, cell by cell. */
export function readEnteredSoFar(
  of: Pick<CompiledField, 'field'>,
  json: Json,
  stored: Value,
  actor: Actor,
  outside: Outside,
): ReturnType<typeof readFieldValueSoFar> {
  if (of.field.type !== 'sign-off') return readFieldValueSoFar(of.field, json, outside);
  const read = readEntered(of, json, stored, actor, outside);
  return read.ok ? { value: read.value, unread: [] } : { value: null, unread: [read.diagnostic] };
}

const isSameJson = (a: Json, b: Json): boolean => a === null || JSON.stringify(a) === JSON.stringify(b);

/** A sign-off names the values as the form has them, so it is set down once the form is evaluated. */
function setDown(form: Form, of: CompiledField, actor: Actor): void {
  const slots = form.frame.slots as Value[];
  slots[of.slot] = signForm(form, slots[of.slot] as ContextValue, actor);
  derive(form.forms.derivation, slots, form.frame, of.slot);
}

function refusalsOf(
  form: Form,
  key: string,
  actor: Actor,
  values: ReadonlyMap<number, Value>,
  unread: ReadonlyMap<string, Diagnostic>,
  outside: Outside,
): readonly Diagnostic[] {
  const of = form.forms.fieldByKey.get(key);
  const step = form.stageForm.fieldSteps.get(key);
  const isKnown = of !== undefined && step !== undefined && mayRead(form.forms, key, actor) && canBeShown(step.placement);
  if (!isKnown) return [diagnostic('hand-off/unknown-field', key, { field: key })];
  if (!isEnterable(decidedOf(form, of).treatment)) return [diagnostic('hand-off/may-not-enter', key, { field: of.field.name })];
  const found = unread.get(key);
  if (found) return [found];
  const value = values.get(of.slot) ?? null;
  const before = form.given.stored[of.slot] ?? null;
  if (of.field.type !== 'table') return faultsOf(of.field, value, before, key, outside);
  return [...refusedCells(form, of, value), ...faultsInRows(of, value, before, outside)];
}

/** Cells of rows that were sent with a value although they can't be entered; sending the value they have is no change. */
function refusedCells(form: Form, of: CompiledField, sent: Value): readonly Diagnostic[] {
  if (!isList(sent)) return [];
  const effective = form.frame.slots[of.slot];
  const rows = new Map((isList(effective as Value) ? (effective as readonly ContextValue[]) : []).map((row) => [row.id, row]));
  return (sent as readonly ContextValue[]).flatMap((row) =>
    of.subFields.flatMap(({ field, index }) => {
      const treatment = form.rows.get(of.slot)?.get(row.id ?? '')?.[index]?.treatment ?? 'hidden';
      const value = row.entries[field.key] ?? null;
      const isSame = value === null || equalValues(value, rows.get(row.id)?.entries[field.key] ?? null) === true;
      if (isEnterable(treatment) || isSame) return [];
      return [diagnostic('hand-off/may-not-enter', `${of.field.key}[${row.id}].${field.key}`, { field: field.name })];
    }),
  );
}

function faultsInRows(of: CompiledField, sent: Value, stored: Value, outside: Outside): readonly Diagnostic[] {
  const asked = of.subFields.filter(({ field }) => CHECKED.has(field.type));
  if (asked.length === 0 || !isList(sent)) return [];
  const before = new Map((isList(stored) ? (stored as readonly ContextValue[]) : []).map((row) => [row.id, row]));
  return (sent as readonly ContextValue[]).flatMap((row) =>
    asked.flatMap(({ field }) => {
      const path = `${of.field.key}[${row.id}].${field.key}`;
      return faultsOf(field, row.entries[field.key] ?? null, before.get(row.id)?.entries[field.key] ?? null, path, outside);
    }),
  );
}

const CHECKED: ReadonlySet<string> = new Set(['member', 'reference', 'file']);

/** What a newly entered value names must be there. What the record had before stays. */
function faultsOf(field: Field | SubField, value: Value, before: Value, path: string, outside: Outside): readonly Diagnostic[] {
  if (value === null) return [];
  const fault = (code: DiagnosticCode, params: Diagnostic['params'] = {}): readonly Diagnostic[] => [
    diagnostic(code, path, { field: field.name, ...params }),
  ];
  switch (field.type) {
    case 'member': {
      if (value === before) return [];
      const member = outside.findMember(value as string);
      if (!member) return fault('value/unknown-member');
      return field.role === null || member.roles.includes(field.role) ? [] : fault('value/member-role', { role: field.role });
    }
    case 'reference': {
      const { id } = value as ContextValue;
      if (id === ((before as ContextValue | null)?.id ?? null)) return [];
      return outside.findRecord(field.workflow, id ?? '') ? [] : fault('value/unknown-record');
    }
    case 'file': {
      const had = (isList(before) ? before : []) as readonly ContextValue[];
      const isNew = (file: ContextValue): boolean => !had.some((own) => equalValues(own, file) === true);
      return (value as readonly ContextValue[]).filter(isNew).some((file) => !isTakenIn(file, outside))
        ? fault('value/unknown-file')
        : [];
    }
    default:
      return [];
  }
}

/** Whether the actor handed over a file with this content under this name. */
function isTakenIn({ entries }: ContextValue, outside: Outside): boolean {
  const known = outside.findFile(entries.sha256 as string);
  return (
    known !== null &&
    known.name === entries.name &&
    known.mediaType === entries.mediaType &&
    known.bytes === findInteger(entries.bytes as never)
  );
}
