import {
  type Actor,
  type CompiledWorkflow,
  compileWorkflow,
  type Diagnostic,
  decidedOf,
  effectiveValueOf,
  enterInput,
  type Form,
  type HandedOn,
  handOn,
  isFault,
  type Json,
  type Outside,
  readWorkflow,
  validateForm,
  type WorkflowRecord,
  writeFieldValue,
  writePlain,
} from '@ypomet/core';
import type { FormCase, HandOffCase } from './format.ts';
import type { Outcome } from './outcome.ts';

export type Workflows = ReadonlyMap<string, CompiledWorkflow>;

/**
 * Reads and compiles a file's definitions; every fault of theirs is a line. Several know each other; one alone knows no
 * others, and what it says of them is taken on trust.
 */
export function prepareWorkflows(definitions: readonly Json[]): {
  readonly workflows: Workflows;
  readonly faults: readonly string[];
} {
  const workflows = new Map<string, CompiledWorkflow>();
  const faults: string[] = [];
  const known = new Map(
    definitions.flatMap((one) => {
      const read = readWorkflow(one);
      return read.ok ? [[read.value.key, read.value] as const] : [];
    }),
  );
  for (const [index, definition] of definitions.entries()) {
    const read = readWorkflow(definition);
    const compiled = read.ok ? compileWorkflow(read.value, known.size > 1 ? (key) => known.get(key) ?? null : null) : null;
    const diagnostics = read.ok ? (compiled?.diagnostics ?? []).filter(isFault) : read.diagnostics;
    faults.push(...diagnostics.map((one) => `workflows.${index}.${showDiagnostic(one)}`));
    if (compiled) workflows.set(compiled.definition.key, compiled);
  }
  return { workflows, faults };
}

const showDiagnostic = ({ path, code }: Diagnostic): string => `${path}: ${code}`;

type Begun = { readonly name: string; readonly workflow: string; readonly actor: FormCase['actor'] };

function begin(one: Begun & { readonly stored: FormCase['stored'] }, stage: string, workflows: Workflows, outside: Outside) {
  const workflow = workflows.get(one.workflow);
  if (!workflow) throw new Error(`no workflow "${one.workflow}" in the file`);
  const at = workflow.stages.get(stage);
  if (!at) throw new Error(`no stage "${stage}" in the workflow "${one.workflow}"`);
  const { id, roles } = one.actor;
  const actor: Actor = { id, name: id, email: `${id}@example.invalid`, roles };
  const record: WorkflowRecord = {
    id: 'record-1',
    number: '1',
    workflow: one.workflow,
    version: 1,
    stage,
    intake: workflow.definition.stages.find(({ kind }) => kind === 'intake')?.key ?? null,
    track: at.stage.tracks[0] ?? null,
    values: one.stored as WorkflowRecord['values'],
    defaulted: [],
    assignee: null,
    submittedBy: id,
    createdAt: new Date(outside.now).toISOString(),
    arrivedAt: new Date(outside.now).toISOString(),
    due: null,
    reminded: [],
    followUps: { open: 0, done: 0 },
    awaited: 0,
  };
  return { workflow, record, actor };
}

/** Only the keys that a case expects, so that a case says what it is about. */
const only = (found: Readonly<Record<string, unknown>>, expected: object): string =>
  JSON.stringify(
    Object.keys(expected)
      .sort()
      .map((key) => [key, found[key] ?? null]),
  );
const all = (expected: object): string => only(expected as Record<string, unknown>, expected);

/** Evaluates and validates a form. */
export function runForm(one: FormCase, workflows: Workflows, outside: Outside): Outcome {
  const { workflow, record, actor } = begin(one, one.stage, workflows, outside);
  const entered = enterInput(workflow, record, one.entered as Record<string, Json>, actor, outside);
  if (!entered.ok) return compare(one, { refused: entered.diagnostics.map(showDiagnostic) });
  const form = entered.value;
  const { treatments = {}, values = {} } = one.expect;
  return compare(one, {
    treatments: pick(treatments, (path) => treatmentAt(form, path)),
    values: pick(values, (key) => valueAt(form, key)),
    issues: validateForm(form).map(showDiagnostic),
  });
}

const pick = (wanted: object, find: (key: string) => unknown): Record<string, unknown> =>
  Object.fromEntries(Object.keys(wanted).map((key) => [key, find(key)]));

/** `field`, or `table[row].subField`. */
function treatmentAt(form: Form, path: string): string {
  const [, key = '', row, sub] = /^(\w+)(?:\[(.+)\]\.(\w+))?$/.exec(path) ?? [];
  const field = form.forms.fieldByKey.get(key);
  if (!field) return 'no such field';
  if (row === undefined) return decidedOf(form, field).treatment;
  const index = field.subFields.find((one) => one.field.key === sub)?.index ?? -1;
  return form.rows.get(field.slot)?.get(row)?.[index]?.treatment ?? 'no such cell';
}

function valueAt(form: Form, key: string): Json | undefined {
  const field = form.forms.fieldByKey.get(key);
  return field && writeFieldValue(field.field, effectiveValueOf(form, field));
}

/** Hands a record on. */
export function runHandOff(one: HandOffCase, workflows: Workflows, outside: Outside): Outcome {
  const begun = begin(one, one.at, workflows, outside);
  const { workflow, actor } = begun;
  const record = one.track === undefined ? begun.record : { ...begun.record, track: one.track };
  const result = handOn(workflow, record, one.handOff, one.entered as Record<string, Json>, actor, outside);
  if (!result.ok) return compare(one, { refused: result.diagnostics.map(showDiagnostic) });
  return compare(one, showHandedOn(result.value, one.expect.values ?? {}));
}

function showHandedOn(
  { record, events, deliveries, acknowledgement, followUps }: HandedOn,
  wanted: Readonly<Record<string, unknown>>,
): Record<string, unknown> {
  const { assignee } = record;
  return {
    stage: record.stage,
    track: record.track,
    assignee: assignee && (assignee.kind === 'role' ? `role ${assignee.role}` : `member ${assignee.member}`),
    branches: events.flatMap((event) => ('branch' in event ? [event.branch] : [])),
    values: pick(wanted, (key) => record.values[key]),
    deliveries: deliveries.flatMap((one) =>
      one.type === 'mail'
        ? [
            {
              delivery: one.delivery,
              to: one.to.map((address) => Object.values(address).join(' ')),
              subject: one.subject,
              body: writePlain(one.body),
            },
          ]
        : [],
    ),
    acknowledgement: acknowledgement ? writePlain(acknowledgement.text) : null,
    followUps: followUps.map(({ followUp, row, values }) => ({ followUp, row, values })),
  };
}

function compare(one: { readonly name: string; readonly expect: object }, found: Record<string, unknown>): Outcome {
  const expected = one.expect as Record<string, unknown>;
  const refusal = 'refused' in found && !('refused' in expected) ? { ...expected, refused: null } : expected;
  return { case: one.name, expected: sorted(all(refusal)), found: sorted(only(found, refusal)) };
}

/** Objects compare by their entries, whatever their order; an entry that is null is as good as none. */
const sorted = (text: string): string =>
  JSON.stringify(JSON.parse(text), (_, value) => {
    if (value === null || typeof value !== 'object' || Array.isArray(value)) return value;
    const entries = Object.entries(value).filter(([, own]) => own !== null);
    return Object.fromEntries(entries.sort(([a], [b]) => (a < b ? -1 : 1)));
  });
