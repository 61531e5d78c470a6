import { type Frame, makeFrame } from '../expressions/frame.ts';
import type { CompiledField } from '../forms/compiled-field.ts';
import { derive } from '../forms/derivation.ts';
import { decidedOf, evaluateForm, type Form } from '../forms/evaluate-form.ts';
import { isEnterable } from '../model/treatment.ts';
import type { Value } from '../values/value.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import { countDue } from './due.ts';
import {
  type Actor,
  environmentOf,
  type Outside,
  readStoredValues,
  systemValues,
  type WorkflowRecord,
  writeValues,
} from './record.ts';

/** A record into which values come from elsewhere while it rests at a stage: what is computed follows, and it doesn't move. */
export class TakingIn {
  private readonly stored: readonly Value[];
  private readonly slots: Value[];
  private readonly frame: Frame;
  private readonly form: Form;

  constructor(
    private readonly workflow: CompiledWorkflow,
    private readonly record: WorkflowRecord,
    private readonly actor: Actor,
    private readonly outside: Outside,
  ) {
    const { forms } = workflow;
    const stored = readStoredValues(forms, record.values, outside);
    const system = systemValues(forms, record, actor, outside);
    const environment = environmentOf(outside);
    this.form = evaluateForm(forms, record.stage, { stored, input: new Map(), due: new Set(), system, environment });
    const slots: Value[] = new Array(forms.layout.size).fill(null);
    stored.forEach((value, slot) => {
      slots[slot] = value;
    });
    for (const [slot, value] of system) slots[slot] = value;
    this.stored = stored;
    this.slots = slots;
    this.frame = makeFrame(slots, environment);
    derive(forms.derivation, slots, this.frame, null);
  }

  /** Whether nobody enters a field where the record is, so that what comes in is never somebody's typing. */
  isOpenTo(of: CompiledField): boolean {
    return !of.computes && !isEnterable(decidedOf(this.form, of).treatment);
  }

  put(of: CompiledField, value: Value): void {
    this.slots[of.slot] = value;
    derive(this.workflow.forms.derivation, this.slots, this.frame, of.slot);
  }

  /** The record with all that came in, its due date counted anew, and the fields that changed. */
  finish(): { readonly record: WorkflowRecord; readonly changed: readonly string[] } {
    const { workflow, record, actor, outside, slots, frame } = this;
    const { forms } = workflow;
    const due = countDue(workflow.stages.get(record.stage), record, frame, (known) => {
      for (const [slot, value] of systemValues(forms, { ...record, due: known }, actor, outside)) {
        slots[slot] = value;
        derive(forms.derivation, slots, frame, slot);
      }
    });
    const { json: values, changed } = writeValues(forms, slots, { json: record.values, values: this.stored });
    return { record: { ...record, values, due }, changed };
  }
}
