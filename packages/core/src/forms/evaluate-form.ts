import type { Environment } from '../expressions/builtins/builtin.ts';
import { type Frame, makeFrame } from '../expressions/frame.ts';
import { isEnterable, type Treatment } from '../model/field.ts';
import { makeDictionary } from '../shared/json.ts';
import { type ContextValue, equalValues, isList, type Value } from '../values/value.ts';
import type { CompiledField } from './compiled-field.ts';
import type { CompiledAdjustment, CompiledForms, FormStep, Placement, StageForm } from './compiled-forms.ts';

/** A treatment and what decided it: an adjustment, or null for the plan's cell. */
export type Decided = { readonly treatment: Treatment; readonly by: CompiledAdjustment | null };

/** What a form is evaluated from. Values are by field slot; `input` holds only what was entered since. */
export type FormInput = {
  readonly stored: readonly Value[];
  readonly input: ReadonlyMap<number, Value>;
  /** Values of the system names, by slot. */
  readonly system: ReadonlyMap<number, Value>;
  readonly environment: Environment;
};

/** A form, evaluated: effective values and treatments, and those of every table's rows. */
export type Form = {
  readonly forms: CompiledForms;
  readonly stageForm: StageForm;
  readonly given: FormInput;
  readonly frame: Frame;
  readonly decided: readonly Decided[];
  /** By table slot, row id and sub-field index. */
  readonly rows: ReadonlyMap<number, ReadonlyMap<string, readonly Decided[]>>;
};

type Working = {
  readonly forms: CompiledForms;
  readonly given: FormInput;
  readonly frame: Frame;
  readonly slots: Value[];
  readonly decided: Decided[];
  readonly rows: Map<number, ReadonlyMap<string, readonly Decided[]>>;
};

/** Evaluates the form of a stage in dependency order (semantics, section 3). Pure: the same input gives the same form. */
export function evaluateForm(forms: CompiledForms, stage: string, given: FormInput): Form {
  const stageForm = forms.stageForm(stage);
  const slots: Value[] = new Array(forms.layout.size).fill(null);
  for (const [slot, value] of given.system) slots[slot] = value;
  const frame = makeFrame(slots, given.environment);
  const decided: Decided[] = new Array(forms.fields.length);
  const working: Working = { forms, given, frame, slots, decided, rows: new Map() };
  for (const step of stageForm.steps) runStep(working, step);
  return { forms, stageForm, given, frame, decided, rows: working.rows };
}

/** The form after one field was entered: only what depends on it is evaluated again. Equals evaluating the whole. */
export function enterValue(form: Form, field: CompiledField, value: Value): Form {
  const input = new Map(form.given.input).set(field.slot, value);
  const given = { ...form.given, input };
  const slots = [...form.frame.slots];
  const frame = makeFrame(slots, given.environment, form.frame.overruns);
  const working: Working = { forms: form.forms, given, frame, slots, decided: [...form.decided], rows: new Map(form.rows) };
  const dirty = new Set<number>();
  for (const index of form.stageForm.affected.get(field.slot) ?? []) {
    const step = form.stageForm.steps[index] as FormStep;
    const slot = step.kind === 'field' ? step.of.slot : step.slot;
    if (slot !== field.slot && !step.reads.some((read) => dirty.has(read))) continue;
    const before = slots[slot] as Value;
    runStep(working, step);
    if (!isSame(before, slots[slot] as Value)) dirty.add(slot);
  }
  return { ...form, given, frame, decided: working.decided, rows: working.rows };
}

const isSame = (a: Value, b: Value): boolean => a === b || (!isList(a) && !isList(b) && equalValues(a, b) === true);

function runStep(working: Working, step: FormStep): void {
  const { frame, slots } = working;
  if (step.kind === 'decision') {
    slots[step.slot] = step.decision.evaluate(frame);
    return;
  }
  const { of, placement } = step;
  const decided = capped(decide(placement, frame, conditionOf), of);
  working.decided[of.slot] = decided;
  slots[of.slot] = effectiveValue(working, step, decided);
}

const conditionOf = (adjustment: CompiledAdjustment): CompiledAdjustment['condition'] => adjustment.condition;

/** A hidden section first, then the first adjustment that holds, then the plan (semantics 3.2). */
function decide(
  placement: Placement,
  frame: Frame,
  conditionFor: (adjustment: CompiledAdjustment) => CompiledAdjustment['condition'] | undefined,
): Decided {
  for (const adjustment of placement.hiding) {
    if (conditionFor(adjustment)?.holds(frame) === true) return { treatment: 'hidden', by: adjustment };
  }
  for (const adjustment of placement.adjustments) {
    if (conditionFor(adjustment)?.holds(frame) === true) return { treatment: adjustment.adjustment.treatment, by: adjustment };
  }
  return { treatment: placement.planned, by: null };
}

/** Computed fields are at most read-only; notes are shown or hidden. */
function capped(decided: Decided, of: { readonly computes: unknown; readonly field: { readonly type: string } }): Decided {
  const isFixed = of.computes !== null || of.field.type === 'note';
  return isFixed && isEnterable(decided.treatment) ? { ...decided, treatment: 'read-only' } : decided;
}

function effectiveValue(working: Working, step: Extract<FormStep, { kind: 'field' }>, decided: Decided): Value {
  const { of, placement } = step;
  const { stored, input } = working.given;
  if (of.computes) return of.computes.evaluate(working.frame);
  const before = stored[of.slot] ?? null;
  if (countsAsEmpty(placement, decided)) return of.field.type === 'table' ? [] : null;
  const entered = isEnterable(decided.treatment) && input.has(of.slot) ? (input.get(of.slot) as Value) : before;
  return of.field.type === 'table' ? effectiveRows(working, step, entered, before, decided) : entered;
}

/** A field that could be entered here but is hidden by an adjustment counts as empty, unless it keeps its value (3.3). */
const countsAsEmpty = (placement: Placement, decided: Decided): boolean =>
  decided.treatment === 'hidden' && decided.by !== null && !decided.by.adjustment.keep && isEnterable(placement.planned);

function effectiveRows(
  working: Working,
  step: Extract<FormStep, { kind: 'field' }>,
  entered: Value,
  before: Value,
  table: Decided,
): Value {
  const { of, rows } = step;
  const list = isList(entered) ? (entered as readonly ContextValue[]) : [];
  const storedRows = new Map((isList(before) ? (before as readonly ContextValue[]) : []).map((row) => [row.id, row]));
  const { slots, frame } = working;
  const { rowSlot } = working.forms.layout;
  const key = of.field.key;
  const treatments = new Map<string, readonly Decided[]>();
  const result = list.map((row): ContextValue => {
    const entries = makeDictionary<Value>();
    for (const { field } of of.subFields) entries[field.key] = null;
    const own = { kind: 'context' as const, id: row.id, entries };
    slots[rowSlot] = own;
    const decidedRow: Decided[] = [];
    for (const { of: sub, placement } of rows) {
      const found = capped(
        decide(placement, frame, (adjustment) => adjustment.rowConditions.get(key)),
        sub,
      );
      const decided =
        isEnterable(found.treatment) && !isEnterable(table.treatment) ? { ...found, treatment: 'read-only' as const } : found;
      decidedRow[sub.index] = decided;
      entries[sub.field.key] = sub.computes
        ? sub.computes.evaluate(frame)
        : subValue(sub.field.key, placement, decided, row, storedRows.get(row.id), table);
    }
    treatments.set(row.id ?? '', decidedRow);
    return own;
  });
  slots[rowSlot] = null;
  working.rows.set(of.slot, treatments);
  return result;
}

function subValue(
  key: string,
  placement: Placement,
  decided: Decided,
  row: ContextValue,
  stored: ContextValue | undefined,
  table: Decided,
): Value {
  // While the table is locked none of its cells could be entered, so none is cleaned up.
  if (isEnterable(table.treatment) && countsAsEmpty(placement, decided)) return null;
  const source = isEnterable(decided.treatment) ? row : stored;
  return source?.entries[key] ?? null;
}

/** The effective value of a field. */
export const effectiveValueOf = (form: Form, field: CompiledField): Value => form.frame.slots[field.slot] as Value;

/** The treatment of a field and what decided it. */
export const decidedOf = (form: Form, field: CompiledField): Decided => form.decided[field.slot] as Decided;
