import { makeFrame } from '../expressions/frame.ts';
import type { CompiledField } from '../forms/compiled-field.ts';
import { canBeShown, type Placement, type StageForm } from '../forms/compiled-forms.ts';
import { derive } from '../forms/derivation.ts';
import { decidedOf, evaluateForm, type Form } from '../forms/evaluate-form.ts';
import type { Field, SubField } from '../model/field.ts';
import { isEmpty, writeFieldValue } from '../model/field-value.ts';
import { FORMAT } from '../model/format.ts';
import type { Workflow } from '../model/workflow.ts';
import { type Json, ownValue } from '../shared/json.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import { mayAct, mayRead, maySee, registerRightOf } from './permissions.ts';
import type { ProjectedForm } from './project-form.ts';
import { type Actor, environmentOf, type Outside, readStoredValues, systemValues, type WorkflowRecord } from './record.ts';
import { brokenSignOffs } from './sign-off.ts';

/** What somebody who looks in on a record is shown of it: values by field key, those of rows by sub-field. */
export type Onlook = { readonly values: ReadonlyMap<string, Value> };

/**
 * What a record shows somebody who doesn't act on it (semantics 7): the submitter the plan's column *Submitter*, holders of
 * a role what their own stages show, whoever acts at its stage that stage's form, holders of the whole register everything;
 * of all that only what they may read.
 * Null for those who may not see the record. `wanted`: the fields that are asked for, of those they are shown.
 */
export function onlookAt(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  actor: Actor,
  outside: Outside,
  wanted: readonly CompiledField[] = workflow.forms.fields,
): Onlook | null {
  const looking = lookAt(workflow, record, actor, outside);
  if (!looking) return null;
  const values = new Map<string, Value>();
  for (const of of wanted) {
    const value = looking.read(of);
    if (value !== undefined) values.set(of.field.key, value);
  }
  return { values };
}

/** What somebody is shown of a record, field by field: undefined for a field that they are not. */
export type Looking = { readonly read: (of: CompiledField) => Value | undefined };

/**
 * As {@link onlookAt}, for those who ask for a few fields. Of the stages only those are evaluated that have a say in them and
 * whose plan doesn't settle it: a list of records of a large workflow has no time for more.
 */
export function lookAt(workflow: CompiledWorkflow, record: WorkflowRecord, actor: Actor, outside: Outside): Looking | null {
  const { forms, definition } = workflow;
  if (!maySee(definition, record, actor)) return null;
  const seesAll = registerRightOf(definition, actor) === 'all';
  const stored = readStoredValues(forms, record.values, outside);
  const system = systemValues(forms, record, actor, outside);
  const environment = environmentOf(outside);
  const shownAt = (stage: string): StageShows =>
    new StageShows(forms.stageForm(stage), () =>
      evaluateForm(forms, stage, { stored, input: new Map(), due: new Set(), system, environment }),
    );
  const theirs = seesAll ? [] : definition.stages.filter((stage) => isTheirs(stage, record, actor));
  const own = theirs.map((stage) => shownAt(stage.key));
  const isSubmitter = record.submittedBy === actor.id;
  const intake = isSubmitter && record.intake !== null && workflow.stages.has(record.intake) ? shownAt(record.intake) : null;
  const slots: Value[] = new Array(forms.layout.size).fill(null);
  stored.forEach((value, slot) => {
    slots[slot] = value;
  });
  for (const [slot, value] of system) slots[slot] = value;
  derive(forms.derivation, slots, makeFrame(slots, environment), null);

  const read = (of: CompiledField): Value | undefined => {
    const { key } = of.field;
    if (!mayRead(forms, key, actor)) return undefined;
    const said = isSubmitter ? ownValue(definition.submitterSees, key) : undefined;
    const isAtIntake = (): boolean => intake?.shows(of) === true;
    const isShown = seesAll || (said ? said === 'shown' : isAtIntake()) || own.some((stage) => stage.shows(of));
    if (!isShown) return undefined;
    const value = slots[of.slot] ?? null;
    const rows = of.field.type === 'table' && isList(value) ? (value as readonly ContextValue[]) : null;
    if (!rows) return value;
    const isCellShown = (row: string, part: string, index: number): boolean => {
      if (!mayRead(forms, key, actor, part)) return false;
      if (seesAll || own.some((stage) => stage.showsCell(of, row, index))) return true;
      if (!isSubmitter || said === 'hidden') return false;
      const saidOfPart = ownValue(definition.submitterSees, `${key}.${part}`);
      if (saidOfPart) return saidOfPart === 'shown';
      return isAtIntake() ? intake?.showsCell(of, row, index) === true : said === 'shown';
    };
    return rows.map((row): ContextValue => {
      const cells = of.subFields.filter(({ field, index }) => isCellShown(row.id ?? '', field.key, index));
      return { ...row, entries: Object.fromEntries(cells.map(({ field }) => [field.key, row.entries[field.key] ?? null])) };
    });
  };
  return { read };
}

/** What a stage's form shows; it is evaluated when something isn't settled by the plan alone. */
class StageShows {
  private evaluated: Form | null = null;

  constructor(
    private readonly stageForm: StageForm,
    private readonly evaluate: () => Form,
  ) {}

  private get form(): Form {
    this.evaluated ??= this.evaluate();
    return this.evaluated;
  }

  shows(of: CompiledField): boolean {
    const placement = this.stageForm.fieldSteps.get(of.field.key)?.placement;
    if (!placement) return false;
    return settledBy(placement) ?? decidedOf(this.form, of).treatment !== 'hidden';
  }

  showsCell(of: CompiledField, row: string, index: number): boolean {
    if (!this.shows(of)) return false;
    const placement = this.stageForm.fieldSteps.get(of.field.key)?.rows.find((step) => step.of.index === index)?.placement;
    if (!placement) return false;
    return settledBy(placement) ?? (this.form.rows.get(of.slot)?.get(row)?.[index]?.treatment ?? 'hidden') !== 'hidden';
  }
}

/** Whether a placement shows its field whatever its conditions say, or hides it; null where they decide. */
function settledBy(placement: Placement): boolean | null {
  if (!canBeShown(placement)) return false;
  return placement.hiding.length === 0 && placement.adjustments.length === 0 ? placement.planned !== 'hidden' : null;
}

/** The stages whose form an onlooker may know: where one of the roles acts, and the present one for whoever has the record. */
const isTheirs = (stage: Workflow['stages'][number], record: WorkflowRecord, actor: Actor): boolean =>
  stage.kind !== 'junction' &&
  (stage.roles.some((role) => actor.roles.includes(role)) || (stage.key === record.stage && mayAct(stage, record, actor)));

/** The read-only form of an onlooker, as a browser gets it: nothing in it computes, and nothing but what is shown is there. */
export function projectOnlook(
  workflow: CompiledWorkflow,
  record: WorkflowRecord,
  actor: Actor,
  outside: Outside,
): ProjectedForm | null {
  const onlook = onlookAt(workflow, record, actor, outside);
  const stage = workflow.stages.get(record.stage)?.stage;
  if (!onlook || !stage) return null;
  const { definition, forms } = workflow;
  const shown = forms.fields.filter(({ field }) => onlook.values.has(field.key));
  const fields = shown.flatMap(({ field }): Workflow['fields'] => {
    const open = { ...field, confidentialTo: [], treatment: 'read-only' as const };
    if (open.type === 'table') {
      const rows = onlook.values.get(open.key) as readonly ContextValue[];
      const seen = new Set(rows.flatMap((row) => Object.keys(row.entries)));
      const own = open.fields.filter((sub) => seen.has(sub.key)).map(withoutExpressions);
      return own.length > 0 ? [{ ...open, fields: own }] : [];
    }
    return [withoutExpressions(open)];
  });
  const projected = readOnlyWorkflow(definition, fields, [{ ...stage, roles: [] }]);
  const values = writeOnlook(fields, onlook);
  const broken = brokenSignOffs(forms, record, outside.zone).filter((key) => onlook.values.has(key));
  return { definition: projected, values, askAgainFor: [], withheld: [], brokenSignOffs: broken };
}

/** A workflow of some fields and stages that decides nothing: what it is called, and how its values are written. */
export function readOnlyWorkflow(definition: Workflow, fields: Workflow['fields'], stages: Workflow['stages']): Workflow {
  return {
    format: FORMAT,
    key: definition.key,
    name: definition.name,
    description: '',
    numbering: definition.numbering,
    roles: [],
    sections: definition.sections.filter((section) => fields.some((field) => field.section === section.key)),
    fields,
    tracks: definition.tracks.map((track) => ({ ...track, notes: '' })),
    stages: stages.map((stage) => ({
      ...stage,
      notes: '',
      assignment: null,
      onArrival: { sets: [], deliveries: [], deliveryPolicy: 'all' },
      due: null,
      reminders: [],
    })),
    plan: {},
    submitterSees: {},
    adjustments: [],
    decisionTables: [],
    handOffs: [],
    checks: [],
    tests: [],
  };
}

/** A field whose value is there, and nothing of what it is made from. */
export function withoutExpressions<T extends Field | SubField>(field: T): T {
  const computed = 'expression' in field ? { expression: null } : {};
  return { ...field, ...computed, ...('default' in field ? { default: null } : {}) };
}

/** What an onlooker is shown of some fields, as JSON by field key; what is empty is left out. */
export const writeOnlook = (fields: readonly Field[], { values }: Onlook): Readonly<Record<string, Json>> =>
  Object.fromEntries(
    fields.flatMap((field) => {
      const value = values.get(field.key) ?? null;
      if (isEmpty(value)) return [];
      const json = writeFieldValue(field, value);
      return [[field.key, field.type === 'table' ? withoutUnseen(json as readonly RowJson[], value) : json] as const];
    }),
  );

type RowJson = { readonly id: string; readonly values: Readonly<Record<string, Json>> };

/** Rows as JSON hold every sub-field; those that are not shown in their row are taken out. */
const withoutUnseen = (json: readonly RowJson[], rows: Value): readonly RowJson[] =>
  json.map(({ id, values }, index) => {
    const { entries } = (rows as readonly ContextValue[])[index] as ContextValue;
    return { id, values: Object.fromEntries(Object.entries(values).filter(([key]) => Object.hasOwn(entries, key))) };
  });
