import type { Frame } from '../expressions/frame.ts';
import { makeFrame } from '../expressions/frame.ts';
import type { CompiledField } from '../forms/compile-forms.ts';
import { decidedOf, evaluateForm, type Form } from '../forms/evaluate-form.ts';
import { validateForm } from '../forms/validate-form.ts';
import { isEnterable } from '../model/field.ts';
import { readFieldValue } from '../model/field-value.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import type { Json } from '../shared/json.ts';
import { failure, type Result, success } from '../shared/result.ts';
import { findSuggestion } from '../shared/suggestion.ts';
import { writeInstant } from '../values/temporal.ts';
import { type ContextValue, equalValues, isList, type Value } from '../values/value.ts';
import { chooseBranch } from './choose-branch.ts';
import type { CompiledHandOff, CompiledSet, CompiledStage, CompiledWorkflow } from './compile-workflow.ts';
import { consequencesOf } from './consequences.ts';
import type { HandedOn, RecordEvent, TraceStep } from './events.ts';
import { mayHandOn, mayRead } from './permissions.ts';
import {
  type Actor,
  type Assignee,
  type Outside,
  readStoredValues,
  systemValues,
  type WorkflowRecord,
  writeStoredValues,
} from './record.ts';

/** Junctions passed at one hand-off before the design is called at fault. */
export const MAX_JUNCTIONS = 100;

/** What a participant sends with a hand-off: values by field key, as JSON. */
export type HandOffInput = Readonly<Record<string, Json>>;

/**
 * Hands a record on (semantics, section 4): a pure function to the new record, what happened and what follows, or to the
 * issues that stand in the way. Codes: `hand-off/…` for refusals, `value/…` and `form/…` for what was entered.
 */
export function handOn(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  handOffKey: string,
  input: HandOffInput,
  actor: Actor,
  outside: Outside,
): Result<HandedOn> {
  const from = workflow.stages.get(record.stage);
  const handOff = workflow.handOffs.get(handOffKey);
  if (!from || !handOff || handOff.handOff.from !== record.stage)
    return refuse('hand-off/not-here', handOffKey, { handOff: handOffKey });
  if (!mayHandOn(handOff.handOff, from.stage, record, actor))
    return refuse('hand-off/not-allowed', handOffKey, { handOff: handOff.handOff.name });

  const entered = enterInput(workflow, record, input, actor, outside);
  if (!entered.ok) return entered;
  const form = entered.value;
  if (handOff.offered.holds(form.frame) !== true)
    return refuse('hand-off/not-offered', handOffKey, { handOff: handOff.handOff.name });
  if (handOff.handOff.checking === 'full') {
    const issues = validateForm(form);
    if (issues.length > 0) return failure(issues);
  }

  const slots = [...form.frame.slots];
  const frame = makeFrame(slots, form.given.environment);
  applySets(workflow, handOff.sets, slots, frame);
  return pass(workflow, { record, actor, outside, from, handOff, slots, frame });
}

const refuse = (code: `hand-off/${string}`, path: string, params: Diagnostic['params']): Result<never> =>
  failure([diagnostic(code, path, params)]);

/**
 * Evaluates a record's form with what an actor entered, refusing by name whatever may not be entered (semantics 4.2).
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
  const values = new Map<number, Value>();
  const diagnostics: Diagnostic[] = [];
  for (const [key, json] of Object.entries(input)) {
    const of = forms.fieldByKey.get(key);
    if (!of) {
      const suggestion = findSuggestion(key, forms.fieldByKey.keys());
      diagnostics.push(diagnostic('hand-off/unknown-field', key, suggestion ? { field: key, suggestion } : { field: key }));
      continue;
    }
    const read = readFieldValue(of.field, json, outside);
    if (read.ok) values.set(of.slot, read.value);
    else diagnostics.push(read.diagnostic);
  }
  if (diagnostics.length > 0) return failure(diagnostics);
  const stored = readStoredValues(forms, record.values, outside);
  const form = evaluateForm(forms, record.stage, {
    stored,
    input: values,
    system: systemValues(forms, record, actor, outside),
    environment: { now: outside.now, zone: outside.zone },
  });
  const refused = [...values.keys()]
    .map((slot) => forms.fields[slot] as CompiledField)
    .filter((of) => !mayEnter(form, of, actor));
  const rowsRefused = [...values.keys()].flatMap((slot) => refusedCells(form, forms.fields[slot] as CompiledField, values));
  if (refused.length === 0 && rowsRefused.length === 0) return success(form);
  return failure([
    ...refused.map(({ field }) => diagnostic('hand-off/may-not-enter', field.key, { field: field.name })),
    ...rowsRefused,
  ]);
}

const mayEnter = (form: Form, of: CompiledField, actor: Actor): boolean =>
  isEnterable(decidedOf(form, of).treatment) && mayRead(of.field, actor);

/** Cells of rows that were sent with a value although they can't be entered; sending the value they have is no change. */
function refusedCells(form: Form, of: CompiledField, values: ReadonlyMap<number, Value>): readonly Diagnostic[] {
  const sent = values.get(of.slot);
  if (of.field.type !== 'table' || !isList(sent ?? null)) return [];
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

/** `field := expression`, in order; computed fields and decisions that read a set field follow at once. */
function applySets(workflow: CompiledWorkflow, sets: readonly CompiledSet[], slots: Value[], frame: Frame): void {
  for (const { slot, value } of sets) {
    slots[slot] = value.evaluate(frame);
    recompute(workflow, slots, frame, slot);
  }
}

function recompute(workflow: CompiledWorkflow, slots: Value[], frame: Frame, changed: number): void {
  const form = workflow.forms.stageForm(workflow.definition.stages[0]?.key ?? '');
  for (const index of form.affected.get(changed) ?? []) {
    const step = form.steps[index];
    if (step?.kind === 'decision') slots[step.slot] = step.decision.evaluate(frame);
    else if (step?.of.computes) slots[step.of.slot] = step.of.computes.evaluate(frame);
  }
}

type Passing = {
  readonly record: WorkflowRecord;
  readonly actor: Actor;
  readonly outside: Outside;
  readonly from: CompiledStage;
  readonly handOff: CompiledHandOff;
  readonly slots: Value[];
  readonly frame: Frame;
};

/** Branches, junctions, arrival and consequences (semantics 4.5 to 4.7). */
function pass(workflow: CompiledWorkflow, passing: Passing): Result<HandedOn> {
  const { record, actor, outside, from, handOff, slots, frame } = passing;
  const events: RecordEvent[] = [];
  const trace: TraceStep[] = [];
  const now = writeInstant(outside.now);
  let current = handOff;
  let track = record.track;
  let to: CompiledStage = from;
  for (let passed = 0; ; passed++) {
    if (passed > MAX_JUNCTIONS)
      return refuse('hand-off/endless-junctions', handOff.handOff.key, { handOff: handOff.handOff.name });
    const chosen = chooseBranch(current, frame, trace);
    if (!chosen.ok) return chosen;
    const { destination, branch } = chosen.value;
    const next = workflow.stages.get(destination.to);
    if (!next) return refuse('hand-off/leads-nowhere', current.handOff.key, { handOff: current.handOff.name });
    track = destination.track ?? (track !== null && next.stage.tracks.includes(track) ? track : (next.stage.tracks[0] ?? null));
    to = next;
    if (passed > 0) events.push({ type: 'passed-junction', stage: current.handOff.from, to: destination.to, branch });
    else
      events.push({
        type: 'handed-on',
        handOff: handOff.handOff.key,
        from: record.stage,
        to: destination.to,
        branch,
        track,
        changed: [],
      });
    applySets(workflow, next.sets, slots, frame);
    const onward = next.stage.kind === 'junction' ? next.handOffs[0] : undefined;
    if (!onward) break;
    applySets(workflow, onward.sets, slots, frame);
    current = onward;
  }
  const values = writeStoredValues(workflow.forms, slots);
  const arrived: WorkflowRecord = {
    ...record,
    stage: to.stage.key,
    track,
    values,
    arrivedAt: now,
    assignee: assigneeAt(workflow, to, frame),
  };
  const system = systemValues(workflow.forms, record, actor, outside, {
    handOff: handOff.handOff,
    destination: to.stage,
  });
  for (const [slot, value] of system) slots[slot] = value;
  const consequences = consequencesOf(workflow, { record: arrived, handOff, to, frame, outside, actor, trace });
  const changed = changedKeys(record.values, values);
  const [first, ...rest] = events;
  const opening = first?.type === 'handed-on' ? [{ ...first, changed }] : [];
  return success({ record: arrived, events: [...opening, ...rest], ...consequences, trace });
}

/** Keys whose stored value differs, in order. */
function changedKeys(before: Readonly<Record<string, Json>>, after: Readonly<Record<string, Json>>): readonly string[] {
  const changed: string[] = [];
  for (const key of Object.keys(after)) if (!isSameJson(before[key], after[key])) changed.push(key);
  for (const key of Object.keys(before)) if (!Object.hasOwn(after, key)) changed.push(key);
  return changed.sort();
}

const isSameJson = (a: Json | undefined, b: Json | undefined): boolean =>
  a === b || (typeof a === 'object' && typeof b === 'object' && JSON.stringify(a) === JSON.stringify(b));

function assigneeAt(workflow: CompiledWorkflow, stage: CompiledStage, frame: Frame): Assignee | null {
  const { assignment } = stage.stage;
  if (assignment?.kind === 'role') return { kind: 'role', role: assignment.role };
  const found = stage.assignee?.evaluate(frame);
  if (typeof found !== 'string') return null;
  if (assignment?.kind !== 'role-of') return { kind: 'member', member: found };
  return workflow.definition.roles.some(({ key }) => key === found) ? { kind: 'role', role: found } : null;
}
