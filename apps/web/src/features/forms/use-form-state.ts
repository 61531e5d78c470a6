import {
  type Actor,
  type CompiledWorkflow,
  evaluateForm,
  type Form,
  type Json,
  type Outside,
  readEntered,
  readStoredValues,
  systemValues,
  type Value,
  type WorkflowRecord,
} from '@ypomet/core';
import { useMemo } from 'react';

/** What was entered, by field key, as JSON; kept even while it can't be read, so that nothing typed is lost. */
export type Entered = Readonly<Record<string, Json>>;

export type FormState = {
  readonly form: Form;
  /** Fields whose entry can't be read as their type, with why. */
  readonly unreadable: ReadonlyMap<string, string>;
};

/** Evaluates a form with what was entered. The same core does it on the server. */
export function useFormState(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  entered: Entered,
  actor: Actor,
  outside: Outside,
): FormState {
  return useMemo(() => evaluateEntered(workflow, record, entered, actor, outside), [workflow, record, entered, actor, outside]);
}

export function evaluateEntered(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  entered: Entered,
  actor: Actor,
  outside: Outside,
): FormState {
  const input = new Map<number, Value>();
  const unreadable = new Map<string, string>();
  const stored = readStoredValues(workflow.forms, record.values, outside);
  for (const [key, json] of Object.entries(entered)) {
    const of = workflow.forms.fieldByKey.get(key);
    if (!of) continue;
    const read = readEntered(of, json, stored[of.slot] ?? null, actor, outside);
    if (read.ok) input.set(of.slot, read.value);
    else {
      input.set(of.slot, of.field.type === 'table' ? [] : null);
      unreadable.set(key, `This must be ${String(read.diagnostic.params.expected)}.`);
    }
  }
  const form = evaluateForm(workflow.forms, record.stage, {
    stored,
    input,
    system: systemValues(workflow.forms, record, actor, outside),
    environment: { now: outside.now, zone: outside.zone },
  });
  return { form, unreadable };
}

/** The record's values with what was entered laid over them. */
export const presentJson = (record: WorkflowRecord, entered: Entered, key: string): Json =>
  Object.hasOwn(entered, key) ? (entered[key] ?? null) : (record.values[key] ?? null);
