import type { CheckedExpression } from '../expressions/check.ts';
import type { CompiledExpression } from '../expressions/compiler.ts';
import { printExpression } from '../expressions/print.ts';
import { namesReadBy, referencesOf } from '../expressions/rewrite.ts';
import { makeLiteral, specialiseExpression } from '../expressions/specialise.ts';
import type { CompiledField } from '../forms/compiled-field.ts';
import { canBeEntered, canBeShown, type FieldStep, type FormStep, type StageForm } from '../forms/compiled-forms.ts';
import { decidedOf, effectiveValueOf, type Form, givenValueOf } from '../forms/evaluate-form.ts';
import type { DecisionTable } from '../model/decision-table.ts';
import type { Field, SubField } from '../model/field.ts';
import { fieldPath, splitFieldPath } from '../model/field-path.ts';
import { isEmpty, writeFieldValue } from '../model/field-value.ts';
import type { Adjustment } from '../model/flow.ts';
import { FORMAT } from '../model/format.ts';
import { hasOwnCell } from '../model/lookup.ts';
import { isEnterable, type Treatment } from '../model/treatment.ts';
import type { Workflow } from '../model/workflow.ts';
import type { Json } from '../shared/json.ts';
import { type ContextValue, isList, type Value } from '../values/value.ts';
import type { CompiledWorkflow } from './compiled-workflow.ts';
import { mayHandOn, mayRead } from './permissions.ts';
import type { Actor, WorkflowRecord } from './record.ts';
import { ANSWER, RowAnswers, withheldCellsOf } from './row-answers.ts';
import { brokenSignOffs } from './sign-off.ts';

/**
 * What a participant's browser gets of a form: a workflow of one stage that it evaluates with the same core, and only the
 * values its reader may see. Conditions that read anything else arrive folded; those that can't be folded without giving
 * a value away are decided by the server again whenever one of `askAgainFor` changes.
 */
export type ProjectedForm = {
  readonly definition: Workflow;
  readonly values: Readonly<Record<string, Json>>;
  /** Fields whose entry changes something only the server can decide. */
  readonly askAgainFor: readonly string[];
  /** Fields that can come to be shown and have a value that wasn't sent. */
  readonly withheld: readonly string[];
  /** Sign-offs that no longer stand, because a value that was signed has changed. */
  readonly brokenSignOffs: readonly string[];
};

/**
 * Projects an evaluated form for somebody who acts at its stage. Values of hidden fields are in no part of the result. For
 * everybody else there is `projectOnlook`.
 */
export function projectForm(workflow: CompiledWorkflow, form: Form, record: WorkflowRecord, actor: Actor): ProjectedForm {
  return new Projector(workflow, form, record, actor).project();
}

/** Notes are for colleagues who design. */
const withoutNotes = (table: DecisionTable): DecisionTable => ({
  ...table,
  rules: table.rules.map((rule) => ({ ...rule, notes: '' })),
});

/** What the conditions read that decide how a field is treated: once it is shown, a value that counted as empty is there again. */
const hidingOf = ({ placement }: FieldStep): readonly string[] =>
  [...placement.hiding, ...placement.adjustments].flatMap(({ condition }) =>
    condition.expression?.checked ? namesReadBy(condition.expression.checked) : [],
  );

class Projector {
  private readonly steps: StageForm['fieldSteps'];
  private readonly sent = new Map<string, Field>();
  private readonly hiddenComputed = new Set<string>();
  private readonly decisions = new Set<string>();
  private readonly withheld = new Set<string>();
  private readonly askAgain = new Set<string>();
  private readonly rowAnswers = new RowAnswers();
  /** `table.subField` where a row has a value that isn't sent, because it is hidden there. */
  private readonly withheldCells: ReadonlySet<string>;

  constructor(
    private readonly workflow: CompiledWorkflow,
    private readonly form: Form,
    private readonly record: WorkflowRecord,
    private readonly actor: Actor,
  ) {
    this.steps = form.stageForm.fieldSteps;
    this.withheldCells = withheldCellsOf(form, [...this.steps.values()]);
  }

  project(): ProjectedForm {
    const { definition } = this.workflow;
    for (const of of this.workflow.forms.fields) this.placeField(of);
    for (const step of this.form.stageForm.steps) this.placeDerived(step);
    const adjustments = this.workflow.forms.adjustments.flatMap((one, index) => this.projectAdjustment(one.adjustment, index));
    const fields = this.workflow.forms.fields.flatMap((of) => this.projectField(of));
    const withAnswers = fields.map((field) =>
      field.type === 'table' ? { ...field, fields: [...field.fields, ...this.rowAnswers.fieldsOf(field.key)] } : field,
    );
    const stage = this.workflow.stages.get(this.record.stage)?.stage;
    if (!stage) throw new Error(`no stage ${this.record.stage}`);
    const projected: Workflow = {
      format: FORMAT,
      key: definition.key,
      name: definition.name,
      description: '',
      numbering: definition.numbering,
      roles: definition.roles,
      sections: definition.sections.filter((section) => fields.some((field) => field.section === section.key)),
      fields: withAnswers,
      tracks: definition.tracks.map((track) => ({ ...track, notes: '' })),
      stages: [
        {
          ...stage,
          notes: '',
          assignment: null,
          onArrival: { sets: [], deliveries: [], deliveryPolicy: 'all' },
          due: null,
          reminders: [],
        },
      ],
      plan: this.projectPlan(fields),
      submitterSees: {},
      adjustments,
      decisionTables: definition.decisionTables.filter((table) => this.decisions.has(table.key)).map(withoutNotes),
      handOffs: this.projectHandOffs(),
      checks: this.projectChecks(),
      tests: [],
    };
    return {
      definition: projected,
      values: this.values(),
      askAgainFor: [...this.askAgain].sort(),
      withheld: [...this.withheld].sort(),
      brokenSignOffs: brokenSignOffs(this.workflow.forms, this.record, this.form.given.environment.zone).filter((key) =>
        this.sent.has(key),
      ),
    };
  }

  private placeField(of: CompiledField): void {
    const { field } = of;
    const step = this.steps.get(field.key);
    if (!step || !this.mayRead(field.key) || !canBeShown(step.placement)) return;
    this.sent.set(field.key, field);
    const isHidden = decidedOf(this.form, of).treatment === 'hidden';
    if (isHidden && of.computes === null && !isEmpty(givenValueOf(this.form, of))) this.withheld.add(field.key);
  }

  /** Computed fields and decisions that are not shown but can be worked out from what is sent go along. */
  private placeDerived(step: FormStep): void {
    if (step.kind === 'decision') {
      if (step.decision.reads.every((checked) => this.canBeWorkedOut(checked))) this.decisions.add(step.decision.table.key);
      return;
    }
    const { key } = step.of.field;
    const checked = step.of.computes?.checked;
    if (!checked || this.sent.has(key) || !this.mayRead(key)) return;
    if (this.canBeWorkedOut(checked)) this.hiddenComputed.add(key);
  }

  private mayRead(key: string, part?: string): boolean {
    return mayRead(this.workflow.forms, key, this.actor, part);
  }

  /** `table`: whose row the name `row` stands for. */
  private canBeWorkedOut(checked: CheckedExpression, table?: FieldStep): boolean {
    return referencesOf(checked).every(
      ({ name, part, whole }) =>
        this.isOpen(name) && (part === null || this.isOpenPart(name, part, table)) && (!whole || this.isOpenWhole(name, table)),
    );
  }

  /** Whether the browser has all of a row or of a table's rows; of other records it has none. */
  private isOpenWhole(name: string, table?: FieldStep): boolean {
    const step = name === 'row' ? table : this.steps.get(name);
    if (step?.of.field.type === 'reference') return false;
    return (step?.of.subFields ?? []).every(({ field }) => step !== undefined && this.isOpenPart(name, field.key, table));
  }

  /** Whether the browser has a name's value, or can work it out. Records that cells point to stay on the server. */
  private isOpen(name: string): boolean {
    // What a record has opened stays on the server.
    if (name.includes('.') || name === 'followUps') return false;
    if (this.hiddenComputed.has(name) || this.decisions.has(name)) return true;
    if (this.sent.has(name)) return !this.withheld.has(name);
    const isField = this.workflow.forms.fieldByKey.has(name);
    return !isField && !this.workflow.definition.decisionTables.some((table) => table.key === name);
  }

  private isOpenPart(name: string, part: string, table?: FieldStep): boolean {
    const step = name === 'row' ? table : this.steps.get(name);
    // What a reference points to stays on the server.
    if (step?.of.field.type === 'reference') return false;
    if (step?.of.field.type !== 'table') return true;
    return this.isSubFieldSent(step, part) && !this.withheldCells.has(`${step.of.field.key}.${part}`);
  }

  private isSubFieldSent(step: FieldStep, key: string): boolean {
    const row = step.rows.find(({ of }) => of.field.key === key);
    return row !== undefined && canBeShown(row.placement) && this.mayRead(step.of.field.key, key);
  }

  /** A condition or value for the browser: as it is, folded, or as the server's present answer. */
  private fold(expression: CompiledExpression): string {
    if (!expression.checked) return 'null';
    const folded = this.foldWithoutAnswer(expression, expression.checked);
    if (folded !== null) return folded;
    this.askFor(namesReadBy(expression.checked));
    this.askForHiddenParts(expression.checked);
    const literal = makeLiteral(expression.evaluate(this.form.frame));
    return literal ? printExpression(literal) : 'null';
  }

  /** As {@link fold}, for an expression over the rows of a table: the server's answer goes along as a hidden cell of each. */
  private foldForRows(expression: CompiledExpression, step: FieldStep, type: SubField, of: number | null): string {
    if (!expression.checked) return 'null';
    const folded = this.foldWithoutAnswer(expression, expression.checked, step);
    if (folded !== null) return folded;
    const table = step.of.field.key;
    this.askFor([...namesReadBy(expression.checked), table]);
    this.askForHiddenParts(expression.checked, step);
    return `row.${this.rowAnswers.add(table, type, expression, of)}`;
  }

  /** Null where the text would read or give away what the browser must not have. */
  private foldWithoutAnswer(expression: CompiledExpression, checked: CheckedExpression, table?: FieldStep): string | null {
    if (this.canBeWorkedOut(checked, table)) return expression.text;
    const readsHiddenParts = referencesOf(checked).some(
      ({ name, part, whole }) =>
        (part !== null && !this.isOpenPart(name, part, table)) || (whole && !this.isOpenWhole(name, table)),
    );
    const { node, reveals } = specialiseExpression(checked, (name) => !this.isOpen(name), this.form.frame);
    if (reveals || readsHiddenParts) return null;
    this.askFor(namesReadBy(checked).filter((name) => !this.isOpen(name)));
    return printExpression(node);
  }

  /** Follows names back to the fields a participant can enter here. */
  private askFor(names: readonly string[], seen = new Set<string>()): void {
    for (const name of names) {
      if (seen.has(name)) continue;
      seen.add(name);
      const step = this.steps.get(name);
      if (step && this.withheld.has(name)) this.askFor(hidingOf(step), seen);
      if (step?.of.computes?.checked) this.askFor(namesReadBy(step.of.computes.checked), seen);
      else if (step && this.sent.has(name) && canBeEntered(step.placement)) this.askAgain.add(name);
      const decision = this.workflow.forms.decisions.find(({ table }) => table.key === name);
      for (const checked of decision?.reads ?? []) this.askFor(namesReadBy(checked), seen);
    }
  }

  private projectAdjustment(adjustment: Adjustment, index: number): readonly Adjustment[] {
    const compiled = this.workflow.forms.adjustments[index];
    const { stages } = adjustment;
    if (!compiled || (stages.length > 0 && !stages.includes(this.record.stage))) return [];
    const paths = adjustment.fields.filter((path) => this.isPathSent(path));
    const sections = adjustment.sections.filter((section) => this.isSectionSent(section));
    const here = { ...adjustment, stages: [this.record.stage], sections };
    const ofRecord = paths.filter((path) => !path.includes('.'));
    const { expression } = compiled.condition;
    const whole: readonly Adjustment[] =
      expression && (ofRecord.length > 0 || sections.length > 0)
        ? [{ ...here, when: this.fold(expression), fields: ofRecord }]
        : [];
    const ofRows = [...compiled.rowConditions].flatMap(([table, condition]): readonly Adjustment[] => {
      const step = this.steps.get(table);
      const cells = paths.filter((path) => path.startsWith(`${table}.`));
      if (!step || !condition.expression || cells.length === 0) return [];
      const when = this.foldForRows(condition.expression, step, ANSWER, null);
      return [{ ...here, key: `${adjustment.key}__${table}`, when, fields: cells, sections: [] }];
    });
    return [...whole, ...ofRows];
  }

  private isSectionSent(section: string): boolean {
    return [...this.sent.values()].some((field) => field.section === section);
  }

  private isPathSent(path: string): boolean {
    const { field, sub } = splitFieldPath(path);
    const step = this.steps.get(field);
    return this.sent.has(field) && (sub === null || (step !== undefined && this.isSubFieldSent(step, sub)));
  }

  private projectField(of: CompiledField): readonly Field[] {
    const { field } = of;
    const isSent = this.sent.has(field.key);
    if (!isSent && !this.hiddenComputed.has(field.key)) return [];
    const step = this.steps.get(field.key);
    const open = { ...field, ...this.projectDefault(of), confidentialTo: [], treatment: 'hidden' as const } as Field;
    if (open.type === 'table' && step) return [{ ...open, fields: this.projectSubFields(step) }];
    if (!of.computes || !('expression' in open)) return [open];
    const isHidden = decidedOf(this.form, of).treatment === 'hidden';
    const canSend = of.computes.checked !== null && this.canBeWorkedOut(of.computes.checked);
    return [{ ...open, expression: canSend || !isHidden ? this.fold(of.computes) : this.foldHidden(of.computes) }];
  }

  /** The default of a field that no form has shown yet; where only the server can work it out, as the server has it now. */
  private projectDefault({ field, fills, slot }: CompiledField): { readonly default?: string | null } {
    if (!('default' in field)) return {};
    if (!fills?.checked || !this.form.given.due.has(slot)) return { default: null };
    const isHidden = this.form.decided[slot]?.treatment === 'hidden';
    return { default: isHidden && !this.canBeWorkedOut(fills.checked) ? this.foldHidden(fills) : this.fold(fills) };
  }

  /** The default of a column, for rows that can be added. */
  private projectCellDefault(step: FieldStep, fills: CompiledExpression | null): string | null {
    if (!fills?.checked || !isEnterable(decidedOf(this.form, step.of).treatment)) return null;
    return this.fold(fills);
  }

  private askForConditionsOf(step: FieldStep, index: number): void {
    const placement = step.rows.find(({ of }) => of.index === index)?.placement;
    for (const adjustment of placement?.adjustments ?? []) {
      const checked = adjustment.rowConditions.get(step.of.field.key)?.expression?.checked;
      if (checked) this.askFor(namesReadBy(checked));
    }
  }

  /** Cells that are hidden in their row count once they are shown: what hides them changes what reads them. */
  private askForHiddenParts(checked: CheckedExpression, table?: FieldStep): void {
    for (const { name, part, whole } of referencesOf(checked)) {
      const step = name === 'row' ? table : this.steps.get(name);
      for (const { field, index } of step?.of.subFields ?? [])
        if (step && (whole || field.key === part)) this.askForConditionsOf(step, index);
    }
  }

  /** The sub-fields that can come to be shown; a computed one that only the server can work out repeats its answer. */
  private projectSubFields(step: FieldStep): SubField[] {
    return step.of.subFields.flatMap(({ field, computes, fills, index }): readonly SubField[] => {
      if (!this.isSubFieldSent(step, field.key)) return [];
      const own = 'default' in field ? { ...field, default: this.projectCellDefault(step, fills) } : field;
      if (!computes || !('expression' in field)) return [own];
      const expression = this.foldForRows(computes, step, field, index);
      // It may come to be shown in a row where it is hidden now, and then its answer must be asked for.
      if (expression !== computes.text) this.askForConditionsOf(step, index);
      return [{ ...field, default: null, expression } as SubField];
    });
  }

  /** A hidden field's expression that only the server can work out: asked for again when it may come to be shown. */
  private foldHidden(expression: CompiledExpression): string {
    if (expression.checked) this.askFor(namesReadBy(expression.checked));
    return 'null';
  }

  private projectPlan(fields: readonly Field[]): Workflow['plan'] {
    const plan: Record<string, Record<string, Treatment>> = {};
    for (const field of fields) {
      const step = this.steps.get(field.key);
      if (!step) continue;
      plan[field.key] = { [this.record.stage]: this.sent.has(field.key) ? step.placement.planned : 'hidden' };
      for (const { of, placement } of step.rows) {
        const isSaid = hasOwnCell(this.workflow.definition, fieldPath(field.key, of.field.key), this.record.stage);
        // A cell without a plan entry follows its table. Sending no entry makes the browser decide the same.
        if (isSaid && this.isSubFieldSent(step, of.field.key))
          plan[`${field.key}.${of.field.key}`] = { [this.record.stage]: placement.planned };
      }
      for (const answer of this.rowAnswers.fieldsOf(field.key))
        plan[`${field.key}.${answer.key}`] = { [this.record.stage]: 'hidden' };
    }
    return plan;
  }

  private projectHandOffs(): Workflow['handOffs'] {
    const stage = this.workflow.stages.get(this.record.stage);
    if (!stage) return [];
    return stage.handOffs
      .filter(({ handOff }) => mayHandOn(handOff, stage.stage, this.record, this.actor))
      .map(({ handOff, offered }) => ({
        ...handOff,
        offeredWhen: offered.expression ? this.fold(offered.expression) : null,
        branches: [],
        otherwise: { to: this.record.stage, track: null },
        sets: [],
        deliveries: [],
        acknowledgements: [],
        followUps: [],
        byClock: null,
        refreshesCarried: false,
      }));
  }

  private projectChecks(): Workflow['checks'] {
    return this.form.stageForm.checks.map(({ check, condition }) => ({
      ...check,
      condition: condition.expression ? this.fold(condition.expression) : 'true',
      stages: [],
      field: check.field !== null && this.sent.has(check.field) ? check.field : null,
    }));
  }

  private values(): Record<string, Json> {
    const values: Record<string, Json> = {};
    for (const of of this.workflow.forms.fields) {
      const { field } = of;
      if (!this.sent.has(field.key) || of.computes || decidedOf(this.form, of).treatment === 'hidden') continue;
      const value = effectiveValueOf(this.form, of);
      if (!isEmpty(value)) values[field.key] = this.visibleValue(of, value);
    }
    return values;
  }

  /** Cells of a table that are hidden in their row are left out. */
  private visibleValue(of: CompiledField, value: Value): Json {
    const { field } = of;
    const json = writeFieldValue(field, value);
    const step = this.steps.get(field.key);
    if (field.type !== 'table' || !isList(value) || !step) return json;
    const rows = json as readonly { readonly id: string; readonly values: Readonly<Record<string, Json>> }[];
    return rows.map((row, index) => {
      const treatments = this.form.rows.get(of.slot)?.get(row.id);
      const kept = of.subFields.filter(
        (sub) =>
          (treatments?.[sub.index]?.treatment ?? 'hidden') !== 'hidden' &&
          sub.computes === null &&
          this.isSubFieldSent(step, sub.field.key),
      );
      const shown = Object.fromEntries(kept.map((sub) => [sub.field.key, row.values[sub.field.key] ?? null]));
      return {
        id: row.id,
        values: { ...shown, ...this.rowAnswers.valuesOf(field.key, value[index] as ContextValue, this.form, treatments) },
      };
    });
  }
}
