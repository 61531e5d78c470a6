import {
  type Actor,
  type CompiledField,
  type CompiledWorkflow,
  type Diagnostic,
  effectiveValueOf,
  enterValue,
  type Form,
  fillForm,
  type Json,
  type Outside,
  readEnteredSoFar,
  type WorkflowRecord,
  writeFieldValue,
} from '@ypomet/core';

/** What was entered, by field key, as JSON; kept even while it can't be read, so that nothing typed is lost. */
export type Entered = Readonly<Record<string, Json>>;

/** What a form is of: while this stays the same, only what was entered since is looked at. */
export type FormGiven = {
  readonly workflow: CompiledWorkflow;
  readonly record: WorkflowRecord;
  readonly actor: Actor;
  readonly outside: Outside;
};

export type FormState = {
  readonly given: FormGiven;
  readonly entered: Entered;
  readonly form: Form;
  /** What was entered and can't be read, by field key: the value, or cells of rows. It counts as empty. */
  readonly unreadable: Unreadable;
};

export type Unreadable = ReadonlyMap<string, readonly Diagnostic[]>;

/** A form with what was entered, evaluated whole. The same core does it on the server. */
export function makeFormState(given: FormGiven, entered: Entered): FormState {
  const { workflow, record, actor, outside } = given;
  return { given, entered, ...fillForm(workflow, record, entered, actor, outside) };
}

const isSameGiven = (a: FormGiven, b: FormGiven): boolean =>
  a.workflow === b.workflow && a.record === b.record && a.actor === b.actor && a.outside === b.outside;

/**
 * The form after something else was entered: fields whose entry is another object are read and followed, everything else
 * stays. Evaluated whole where it is another form, or where an entry was taken back.
 */
export function advanceFormState(before: FormState | null, given: FormGiven, entered: Entered): FormState {
  if (!before || !isSameGiven(before.given, given)) return makeFormState(given, entered);
  if (before.entered === entered) return before;
  if (Object.keys(before.entered).some((key) => !Object.hasOwn(entered, key))) return makeFormState(given, entered);
  const unreadable = new Map(before.unreadable);
  let { form } = before;
  for (const [key, json] of Object.entries(entered)) {
    if (Object.hasOwn(before.entered, key) && before.entered[key] === json) continue;
    const of = given.workflow.forms.fieldByKey.get(key);
    if (!of) continue;
    const { value, unread } = readEnteredSoFar(of, json, form.given.stored[of.slot] ?? null, given.actor, given.outside);
    form = enterValue(form, of, value);
    if (unread.length === 0) unreadable.delete(key);
    else unreadable.set(key, unread);
  }
  return { given, entered, form, unreadable };
}

/** What an input holds: what was entered, else what the record has, else the default that its form shows for the first time. */
export function presentJson(form: Form, record: WorkflowRecord, entered: Entered, of: CompiledField): Json {
  const { key } = of.field;
  if (Object.hasOwn(entered, key)) return entered[key] ?? null;
  const stored = record.values[key] ?? null;
  return stored === null && of.fills ? writeFieldValue(of.field, effectiveValueOf(form, of)) : stored;
}
