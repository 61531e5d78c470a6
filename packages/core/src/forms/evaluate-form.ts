import type { Environment } from '../expressions/builtins/builtin.ts';
import { type Frame, makeFrame } from '../expressions/frame.ts';
import { isEmpty } from '../model/field-value.ts';
import { isEnterable } from '../model/treatment.ts';
import { makeDictionary } from '../shared/json.ts';
import { type ContextValue, equalValues, isList, type Value } from '../values/value.ts';
import type { CompiledField } from './compiled-field.ts';
import {
  type CompiledAdjustment,
  type CompiledForms,
  cappedTo,
  type Decided,
  type FormStep,
  type Placement,
  type StageForm,
} from './compiled-forms.ts';

export type { Decided } from './compiled-forms.ts';

/** What a form is evaluated from. Values are by field slot; `input` holds only what was entered since. */
export type FormInput = {
  readonly stored: readonly Value[];
  readonly input: ReadonlyMap<number, Value>;
  /** Slots whose default is still due: no form has shown them yet. */
  readonly due: ReadonlySet<number>;
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
  /** Whether an adjustment's condition holds: it covers several fields, and is read once. */
  readonly asks: Asks;
};

type Asks = (adjustment: CompiledAdjustment) => boolean;

const [NOT_ASKED, ASKED_NO, ASKED_YES] = [0, 1, 2] as const;

/** Evaluates the form of a stage in dependency order (semantics, section 3). Pure: the same input gives the same form. */
export function evaluateForm(forms: CompiledForms, stage: string, given: FormInput): Form {
  const stageForm = forms.stageForm(stage);
  const slots: Value[] = new Array(forms.layout.size).fill(null);
  for (const [slot, value] of given.system) slots[slot] = value;
  const frame = makeFrame(slots, given.environment);
  const decided = [...stageForm.plain.decided] as Decided[];
  for (const slot of stageForm.plain.slots) slots[slot] = given.stored[slot] ?? null;
  for (const [slot, value] of given.input) {
    const plain = stageForm.plain.decided[slot];
    if (plain && isEnterable(plain.treatment)) slots[slot] = value;
  }
  const working: Working = { forms, given, frame, slots, decided, rows: new Map(), asks: asksOnce(forms, frame) };
  for (const step of stageForm.dependent) runStep(working, step);
  return { forms, stageForm, given, frame, decided, rows: working.rows };
}

/** The form after one field was entered: only what depends on it is evaluated again. Equals evaluating the whole. */
export function enterValue(form: Form, field: CompiledField, value: Value): Form {
  const input = new Map(form.given.input).set(field.slot, value);
  const given = { ...form.given, input };
  const slots = [...form.frame.slots];
  const frame = makeFrame(slots, given.environment, form.frame.overruns);
  const { forms } = form;
  const asks = asksOnce(forms, frame);
  const working: Working = { forms, given, frame, slots, decided: [...form.decided], rows: new Map(form.rows), asks };
  const dirty = new Set<number>();
  for (const index of form.stageForm.affected.get(field.slot) ?? []) {
    const step = form.stageForm.steps[index] as FormStep;
    const { slot } = step;
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
  if (step.plain !== null) {
    const { slot, plain } = step;
    working.decided[slot] = plain;
    slots[slot] = enteredValue(working.given, slot, plain);
    return;
  }
  const { slot, placement, isFixed } = step;
  const decided = cappedTo(isFixed, decide(placement, working.asks));
  working.decided[slot] = decided;
  slots[slot] = effectiveValue(working, step, decided);
}

/** Everything that a condition reads comes before all that it decides, so that it says the same whenever it is asked. */
function asksOnce(forms: CompiledForms, frame: Frame): Asks {
  const asked = new Int8Array(forms.adjustments.length);
  return ({ place, condition }) => {
    if (asked[place] === NOT_ASKED) asked[place] = condition.holds(frame) ? ASKED_YES : ASKED_NO;
    return asked[place] === ASKED_YES;
  };
}

/** A hidden section first, then the first adjustment that holds, then the plan (semantics 3.2). */
function decide({ hiding, adjustments, unadjusted }: Placement, holds: (adjustment: CompiledAdjustment) => boolean): Decided {
  if (hiding.length === 0 && adjustments.length === 0) return unadjusted;
  for (const adjustment of hiding) if (holds(adjustment)) return adjustment.decided;
  for (const adjustment of adjustments) if (holds(adjustment)) return adjustment.decided;
  return unadjusted;
}

function effectiveValue(working: Working, step: Extract<FormStep, { kind: 'field' }>, decided: Decided): Value {
  const { of, placement } = step;
  const { stored } = working.given;
  if (of.computes) return of.computes.evaluate(working.frame);
  const before = stored[of.slot] ?? null;
  if (countsAsEmpty(placement, decided)) return of.field.type === 'table' ? [] : null;
  const entered = enteredValue(working.given, of.slot, decided);
  if (of.fills && entered === null && isFilled(working.given, of.slot, decided)) return of.fills.evaluate(working.frame);
  return of.field.type === 'table' ? effectiveRows(working, step, entered, before, decided) : entered;
}

/** What was entered, where it may be; else what is stored. */
function enteredValue({ stored, input }: FormInput, slot: number, { treatment }: Decided): Value {
  if (input.size > 0 && isEnterable(treatment) && input.has(slot)) return input.get(slot) as Value;
  return stored[slot] ?? null;
}

/** Whether a field that is empty reads as its default: shown for the first time, and nobody has emptied it. */
const isFilled = ({ due, input }: FormInput, slot: number, { treatment }: Decided): boolean =>
  due.has(slot) && treatment !== 'hidden' && !input.has(slot);

/** A field that could be entered here but is hidden by an adjustment counts as empty, unless it keeps its value (3.3). */
const countsAsEmpty = (placement: Placement, decided: Decided): boolean =>
  decided.treatment === 'hidden' && decided.by !== null && !decided.by.adjustment.keep && isEnterable(placement.planned);

/**
 * Fields that have a stored or an entered value and count as empty, because an adjustment hides them: a hand-off clears them
 * (semantics 3.3 and 4.4).
 */
export const clearedFields = (form: Form): readonly CompiledField[] =>
  form.stageForm.steps.flatMap((step) => {
    if (step.kind !== 'field' || step.of.computes || !countsAsEmpty(step.placement, decidedOf(form, step.of))) return [];
    const { slot } = step.of;
    const { stored, input } = form.given;
    return isEmpty(stored[slot] ?? null) && isEmpty(input.get(slot) ?? null) ? [] : [step.of];
  });

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
    const storedRow = storedRows.get(row.id);
    for (const { field } of of.subFields) entries[field.key] = null;
    for (const { of: sub, isLasting } of rows) if (isLasting) entries[sub.field.key] = storedRow?.entries[sub.field.key] ?? null;
    const own = { kind: 'context' as const, id: row.id, entries };
    slots[rowSlot] = own;
    const decidedRow: Decided[] = [];
    for (const { of: sub, placement, isFixed } of rows) {
      const found = cappedTo(
        isFixed,
        decide(placement, (adjustment) => adjustment.rowConditions.get(key)?.holds(frame) === true),
      );
      const decided =
        isEnterable(found.treatment) && !isEnterable(table.treatment) ? { ...found, treatment: 'read-only' as const } : found;
      decidedRow[sub.index] = decided;
      entries[sub.field.key] = sub.computes
        ? sub.computes.evaluate(frame)
        : subValue(sub.field.key, placement, decided, row, storedRow, table);
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

/** What was entered in a field, else what is stored in it, also where that counts as empty because the field is hidden. */
export const givenValueOf = ({ given: { input, stored } }: Form, { slot }: CompiledField): Value =>
  (input.has(slot) ? input.get(slot) : stored[slot]) ?? null;

/** The treatment of a field and what decided it. */
export const decidedOf = (form: Form, field: CompiledField): Decided => form.decided[field.slot] as Decided;
