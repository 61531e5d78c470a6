import { compileDecision, typeOfDecision } from '../decisions/compile-decision.ts';
import type { CompiledCondition, CompiledExpression, ExpressionCompiler } from '../expressions/compiler.ts';
import type { Scope } from '../expressions/scope.ts';
import { type FindWorkflow, makeWorkflowScope, typeOfField, type WorkflowScope } from '../expressions/workflow-scope.ts';
import { expressionOf, type Field, type SubField, type TableField } from '../model/field.ts';
import { settlerOf } from '../model/field-value.ts';
import type { Adjustment } from '../model/flow.ts';
import { plannedTreatment } from '../model/lookup.ts';
import type { Workflow } from '../model/workflow.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import type { CompiledField } from './compiled-field.ts';
import type { CompiledAdjustment, CompiledForms, FormStep, StageForm } from './compiled-forms.ts';
import { type Coverage, coverageAt, coveringOf } from './coverage.ts';
import { affectedSteps, orderByDependency, orderRow, slotsRead } from './dependency-order.ts';
import { compileDerivation, type Derivation } from './derivation.ts';
import { makeReaders, type ReadersTable } from './readers.ts';

/**
 * Compiles fields, decision tables, adjustments and checks. Cycles are diagnostics `form/cycle`. Stage forms, and what
 * follows from the values, are made when they are first asked for, unless all that is wrong is to be known.
 */
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
  const stages = new Set(definition.stages.map((stage) => stage.key));
  const stageForm = (stage: string): StageForm => {
    const known = stageForms.get(stage);
    if (known) return known;
    if (!stages.has(stage)) throw new Error(`no stage ${stage}`);
    const made = compileStage(parts, stage, compiler.diagnostics);
    stageForms.set(stage, made);
    return made;
  };
  if (compiler.compiling === 'whole') for (const stage of stages) stageForm(stage);
  let derivation: Derivation | null = null;
  let readers: ReadersTable | null = null;
  return {
    ...parts,
    fieldByKey,
    stageForm,
    hasReferences: fields.some(
      ({ field, subFields }) => field.type === 'reference' || subFields.some((own) => own.field.type === 'reference'),
    ),
    get derivation() {
      derivation ??= compileDerivation(parts);
      return derivation;
    },
    get readers() {
      readers ??= makeReaders(fields, decisions);
      return readers;
    },
  };
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
    return text === null ? null : settled(compiler.compile(text, path, scope, typeOfField(own, findWorkflow)), own);
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

/** A computed value reads as an entered one would: trimmed, in option order, in the workspace's zone. */
function settled(expression: CompiledExpression, field: Field | SubField): CompiledExpression {
  const settle = settlerOf(field);
  if (!settle) return expression;
  return {
    text: expression.text,
    path: expression.path,
    get checked() {
      return expression.checked;
    },
    evaluate: (frame) => settle(expression.evaluate(frame), frame.environment.zone),
  };
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

type Parts = Omit<CompiledForms, 'fieldByKey' | 'stageForm' | 'hasReferences' | 'derivation' | 'readers'>;

function compileStage(parts: Parts, stage: string, diagnostics: Diagnostic[]): StageForm {
  const here = coverageAt(parts.adjustments, stage);
  const unordered: FormStep[] = [
    ...parts.fields.map((of) => fieldStep(parts, of, stage, here, diagnostics)),
    ...parts.decisions.map(
      (decision, index): FormStep => ({
        kind: 'decision',
        slot: parts.fields.length + index,
        decision,
        reads: slotsRead(parts.layout, decision.reads),
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
  const fieldSteps = new Map(steps.flatMap((step) => (step.kind === 'field' ? [[step.of.field.key, step] as const] : [])));
  return {
    stage,
    steps,
    fieldSteps,
    affected: affectedSteps(steps.map((step) => ({ slot: slotOf(step), reads: step.reads }))),
    checks,
  };
}

const nameOfSlot = (parts: Parts, slot: number): string =>
  parts.fields[slot]?.field.name ?? parts.decisions[slot - parts.fields.length]?.table.name ?? '';

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
  return {
    kind: 'field',
    of,
    placement,
    reads: slotsRead(parts.layout, [of.computes?.checked, ...conditions, ...rowReads]),
    rows,
  };
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
  const { order, cycle } = orderRow(table, (index) => {
    const step = steps[index];
    const conditions = step?.placement.adjustments.map((one) => one.rowConditions.get(table.key)?.expression) ?? [];
    return [step?.of.computes, ...conditions];
  });
  if (cycle) {
    const names = cycle.map((index) => `${table.name}: ${table.fields[index]?.name ?? ''}`);
    diagnostics.push(diagnostic('form/cycle', `stages.${stage}`, { names }));
  }
  return order.map((index) => steps[index] as (typeof steps)[number]);
}
