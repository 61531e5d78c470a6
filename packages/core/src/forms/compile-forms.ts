import { type CompiledDecision, compileDecision, typeOfDecision } from '../decisions/compile-decision.ts';
import type { CheckedExpression } from '../expressions/check.ts';
import type { CompiledCondition, CompiledExpression, ExpressionCompiler } from '../expressions/compiler.ts';
import { namesReadBy } from '../expressions/rewrite.ts';
import type { Scope } from '../expressions/scope.ts';
import { type FindWorkflow, makeWorkflowScope, typeOfField, type WorkflowScope } from '../expressions/workflow-scope.ts';
import { expressionOf, type Field, isEnterable, type SubField, type TableField, type Treatment } from '../model/field.ts';
import type { Adjustment, Check } from '../model/flow.ts';
import { plannedTreatment } from '../model/lookup.ts';
import type { Workflow } from '../model/workflow.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { type Coverage, coverageAt, coveringOf } from './coverage.ts';
import { orderByDependency } from './dependency-order.ts';

export type CompiledField = {
  readonly field: Field;
  readonly slot: number;
  /** Of a computed field. */
  readonly computes: CompiledExpression | null;
  /** Of a table field: its sub-fields. */
  readonly subFields: readonly CompiledSubField[];
};

export type CompiledSubField = { readonly field: SubField; readonly index: number; readonly computes: CompiledExpression | null };

export type CompiledAdjustment = {
  readonly adjustment: Adjustment;
  readonly condition: CompiledCondition;
  /** The condition in the scope of each table whose sub-fields the adjustment covers, so that it may read `row`. */
  readonly rowConditions: ReadonlyMap<string, CompiledCondition>;
};

export type CompiledCheck = { readonly check: Check; readonly condition: CompiledCondition };

/** What decides one field's (or sub-field's) treatment at one stage. */
export type Placement = {
  readonly planned: Treatment;
  /** Adjustments of sections that hide, tried before the rest. */
  readonly hiding: readonly CompiledAdjustment[];
  /** Adjustments that cover it here, in listed order. */
  readonly adjustments: readonly CompiledAdjustment[];
};

/** One step of evaluating a stage's form, in dependency order. */
export type FormStep =
  | {
      readonly kind: 'field';
      readonly of: CompiledField;
      readonly placement: Placement;
      readonly reads: readonly number[];
      /** Of a table: its sub-fields in the order of their dependencies. */
      readonly rows: readonly { readonly of: CompiledSubField; readonly placement: Placement }[];
    }
  | { readonly kind: 'decision'; readonly slot: number; readonly decision: CompiledDecision; readonly reads: readonly number[] };

/** A stage's form, compiled. */
export type StageForm = {
  readonly stage: string;
  readonly steps: readonly FormStep[];
  /** For each slot the indexes of the steps that depend on it, directly or not, ascending. */
  readonly affected: ReadonlyMap<number, readonly number[]>;
  readonly checks: readonly CompiledCheck[];
};

/** Everything of a workflow that forms need. */
export type CompiledForms = {
  readonly definition: Workflow;
  readonly layout: WorkflowScope;
  readonly fields: readonly CompiledField[];
  readonly fieldByKey: ReadonlyMap<string, CompiledField>;
  readonly decisions: readonly CompiledDecision[];
  readonly adjustments: readonly CompiledAdjustment[];
  readonly checks: readonly CompiledCheck[];
  readonly stageForm: (stage: string) => StageForm;
};

/** Compiles fields, decision tables, adjustments and checks. Cycles are diagnostics `form/cycle`. */
export function compileForms(definition: Workflow, compiler: ExpressionCompiler, findWorkflow: FindWorkflow): CompiledForms {
  const decisionTypes = new Map(definition.decisionTables.map((table) => [table.key, typeOfDecision(table)]));
  const layout = makeWorkflowScope(definition, decisionTypes, findWorkflow);
  const { scope } = layout;
  const fields = definition.fields.map((field, slot) => compileField(field, slot, layout, compiler, findWorkflow));
  const decisions = definition.decisionTables.map((table, index) =>
    compileDecision(table, `decisionTables.${index}`, scope, compiler),
  );
  const adjustments = definition.adjustments.map((adjustment, index) => compileAdjustment(adjustment, index, layout, compiler));
  const checks = definition.checks.map((check, index) => ({
    check,
    condition: compiler.compileCondition(check.condition, `checks.${index}.condition`, scope),
  }));
  const parts = { definition, layout, fields, decisions, adjustments, checks };
  const fieldByKey = new Map(fields.map((field) => [field.field.key, field]));
  const stageForms = new Map<string, StageForm>();
  for (const stage of definition.stages) stageForms.set(stage.key, compileStage(parts, stage.key, compiler.diagnostics));
  const stageForm = (stage: string): StageForm => {
    const found = stageForms.get(stage);
    if (!found) throw new Error(`no stage ${stage}`);
    return found;
  };
  return { ...parts, fieldByKey, stageForm };
}

function compileField(
  field: Field,
  slot: number,
  layout: WorkflowScope,
  compiler: ExpressionCompiler,
  findWorkflow: FindWorkflow,
): CompiledField {
  const compute = (own: Field | SubField, path: string, scope: Scope): CompiledExpression | null => {
    const text = expressionOf(own);
    return text === null ? null : compiler.compile(text, path, scope, typeOfField(own, findWorkflow));
  };
  const rowScope = layout.rowScopes.get(field.key);
  const subFields =
    field.type === 'table' && rowScope
      ? field.fields.map((own, index) => ({
          field: own,
          index,
          computes: compute(own, `fields.${slot}.fields.${index}.expression`, rowScope),
        }))
      : [];
  return { field, slot, computes: compute(field, `fields.${slot}.expression`, layout.scope), subFields };
}

function compileAdjustment(
  adjustment: Adjustment,
  index: number,
  layout: WorkflowScope,
  compiler: ExpressionCompiler,
): CompiledAdjustment {
  const path = `adjustments.${index}.when`;
  const tables = new Set(adjustment.fields.filter((own) => own.includes('.')).map((own) => own.split('.')[0] as string));
  const plain = adjustment.sections.length > 0 || adjustment.fields.some((own) => !own.includes('.'));
  const condition =
    plain || tables.size === 0
      ? compiler.compileCondition(adjustment.when, path, layout.scope)
      : { expression: null, holds: () => null };
  const rowConditions = new Map<string, CompiledCondition>();
  for (const table of tables) {
    const scope = layout.rowScopes.get(table);
    if (scope) rowConditions.set(table, compiler.compileCondition(adjustment.when, path, scope));
  }
  return { adjustment, condition, rowConditions };
}

type Parts = Omit<CompiledForms, 'fieldByKey' | 'stageForm'>;

function compileStage(parts: Parts, stage: string, diagnostics: Diagnostic[]): StageForm {
  const here = coverageAt(parts.adjustments, stage);
  const unordered: FormStep[] = [
    ...parts.fields.map((of) => fieldStep(parts, of, stage, here, diagnostics)),
    ...parts.decisions.map(
      (decision, index): FormStep => ({
        kind: 'decision',
        slot: parts.fields.length + index,
        decision,
        reads: slotsRead(parts, decision.reads),
      }),
    ),
  ];
  const slotOf = (step: FormStep): number => (step.kind === 'field' ? step.of.slot : step.slot);
  const { order, cycle } = orderByDependency(unordered.map((step) => step.reads.filter((slot) => slot < unordered.length)));
  if (cycle) {
    const names = cycle.map((slot) => nameOfSlot(parts, slot));
    diagnostics.push(diagnostic('form/cycle', `stages.${stage}`, { names }));
  }
  const steps = order.map((slot) => unordered[slot] as FormStep);
  const checks = parts.checks.filter(({ check }) => check.stages.length === 0 || check.stages.includes(stage));
  return { stage, steps, affected: affectedSteps(steps, slotOf), checks };
}

const nameOfSlot = (parts: Parts, slot: number): string =>
  parts.fields[slot]?.field.name ?? parts.decisions[slot - parts.fields.length]?.table.name ?? '';

function slotsRead(parts: Parts, expressions: readonly (CheckedExpression | null | undefined)[]): readonly number[] {
  const slots = new Set<number>();
  for (const expression of expressions) {
    if (!expression) continue;
    for (const name of namesReadBy(expression)) {
      const entry = parts.layout.scope.entries.get(name);
      if (entry) slots.add(entry.slot);
    }
  }
  return [...slots];
}

function fieldStep(
  parts: Parts,
  of: CompiledField,
  stage: string,
  here: Coverage<CompiledAdjustment>,
  diagnostics: Diagnostic[],
): FormStep {
  const { field } = of;
  const hiding = (here.bySection.get(field.section) ?? []).filter(({ adjustment }) => adjustment.treatment === 'hidden');
  const adjustments = coveringOf(field, here);
  const placement = { planned: plannedTreatment(parts.definition, field.key, stage), hiding, adjustments };
  const conditions = [...hiding, ...adjustments].map(({ condition }) => condition.expression?.checked);
  const rows = field.type === 'table' ? rowSteps(parts, of, field, stage, here, diagnostics) : [];
  const rowReads = rows.flatMap(({ of: own, placement: row }) => [
    own.computes?.checked,
    ...row.adjustments.map((adjustment) => adjustment.rowConditions.get(field.key)?.expression?.checked),
  ]);
  return { kind: 'field', of, placement, reads: slotsRead(parts, [of.computes?.checked, ...conditions, ...rowReads]), rows };
}

function rowSteps(
  parts: Parts,
  of: CompiledField,
  table: TableField,
  stage: string,
  here: Coverage<CompiledAdjustment>,
  diagnostics: Diagnostic[],
) {
  const steps = of.subFields.map((own) => {
    const path = `${table.key}.${own.field.key}`;
    const adjustments = here.byPath.get(path) ?? [];
    return { of: own, placement: { planned: plannedTreatment(parts.definition, path, stage), hiding: [], adjustments } };
  });
  const keys = table.fields.map((field) => field.key);
  const reads = steps.map(({ of: own, placement }) => {
    const expressions = [
      own.computes,
      ...placement.adjustments.map((adjustment) => adjustment.rowConditions.get(table.key)?.expression),
    ];
    const rowKeys = expressions.flatMap((expression) => (expression?.checked ? rowPartsRead(expression.checked) : []));
    return [...new Set(rowKeys.map((key) => keys.indexOf(key)).filter((index) => index >= 0))];
  });
  const { order, cycle } = orderByDependency(reads);
  if (cycle) {
    const names = cycle.map((index) => `${table.name}: ${table.fields[index]?.name ?? ''}`);
    diagnostics.push(diagnostic('form/cycle', `stages.${stage}`, { names }));
  }
  return order.map((index) => steps[index] as (typeof steps)[number]);
}

/** The sub-fields an expression reads of its own row. */
function rowPartsRead(checked: CheckedExpression): readonly string[] {
  const found: string[] = [];
  for (const node of checked.typings.keys()) {
    if (node.kind === 'path' && node.of.kind === 'name' && node.of.name === 'row') found.push(node.name);
  }
  return found;
}

/** Whether any treatment a placement can come to lets a participant enter the field. */
export const canBeEntered = (placement: Placement): boolean =>
  isEnterable(placement.planned) || placement.adjustments.some(({ adjustment }) => isEnterable(adjustment.treatment));

/** Whether any treatment a placement can come to shows the field. */
export const canBeShown = (placement: Placement): boolean =>
  placement.planned !== 'hidden' || placement.adjustments.some(({ adjustment }) => adjustment.treatment !== 'hidden');

function affectedSteps(steps: readonly FormStep[], slotOf: (step: FormStep) => number): ReadonlyMap<number, readonly number[]> {
  const readers = new Map<number, number[]>();
  steps.forEach((step, index) => {
    for (const slot of step.reads) {
      const list = readers.get(slot);
      if (list) list.push(index);
      else readers.set(slot, [index]);
    }
  });
  const affected = new Map<number, readonly number[]>();
  steps.forEach((step, own) => {
    const reached = new Set<number>([own]);
    const open = [slotOf(step)];
    for (let slot = open.pop(); slot !== undefined; slot = open.pop()) {
      for (const reader of readers.get(slot) ?? []) {
        if (reached.has(reader)) continue;
        reached.add(reader);
        open.push(slotOf(steps[reader] as FormStep));
      }
    }
    affected.set(
      slotOf(step),
      [...reached].sort((a, b) => a - b),
    );
  });
  return affected;
}
