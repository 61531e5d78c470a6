import { compileDecision } from '../decisions/compile-decision.ts';
import { layOutScope } from '../decisions/lay-out.ts';
import { type CompiledCondition, type CompiledExpression, type ExpressionCompiler, UNASKED } from '../expressions/compiler.ts';
import type { Scope } from '../expressions/scope.ts';
import { type FindWorkflow, openedBy, typeOfField, type WorkflowScope } from '../expressions/workflow-scope.ts';
import { defaultOf, expressionOf } from '../model/computed.ts';
import type { Field, SubField, TableField } from '../model/field.ts';
import { fieldPath } from '../model/field-path.ts';
import { readGivenValue, settlerOf } from '../model/field-value.ts';
import type { Adjustment } from '../model/flow.ts';
import { hasOwnCell, plannedTreatment, subFieldDefault } from '../model/lookup.ts';
import { joinPath, within } from '../model/path.ts';
import type { Treatment } from '../model/treatment.ts';
import { tablesAdjusted } from '../model/walk.ts';
import type { Workflow } from '../model/workflow.ts';
import { type Diagnostic, diagnostic } from '../shared/diagnostic.ts';
import { ownValue } from '../shared/json.ts';
import type { Value } from '../values/value.ts';
import type { CompiledField } from './compiled-field.ts';
import {
  type CompiledAdjustment,
  type CompiledForms,
  cappedTo,
  type Decided,
  type FormStep,
  isFixed,
  isLasting,
  type Placement,
  type RowStep,
  type StageForm,
} from './compiled-forms.ts';
import { type Coverage, coverageAt, coveringOf } from './coverage.ts';
import { affectedSteps, orderByDependency, orderRow, slotsRead } from './dependency-order.ts';
import { compileDerivation, type Derivation } from './derivation.ts';
import { makeReaders, type ReadersTable } from './readers.ts';

/**
 * Compiles fields, decision tables, adjustments and checks. Cycles are diagnostics `form/cycle`. Stage forms, and what
 * follows from the values, are made when they are first asked for, unless all that is wrong is to be known.
 */
export function compileForms(definition: Workflow, compiler: ExpressionCompiler, findWorkflow: FindWorkflow): CompiledForms {
  const layout = layOut(definition, compiler, findWorkflow);
  const { scope } = layout;
  const fields = compiler.reuse('fields', [definition.fields, layout], () =>
    definition.fields.map((field, slot) => compileField(field, slot, layout, compiler, findWorkflow)),
  );
  const decisions = compiler.reuse('decisionTables', [definition.decisionTables, layout], () =>
    definition.decisionTables.map((table) => compileDecision(table, joinPath('decisionTables', table.key), scope, compiler)),
  );
  const adjustments = compiler.reuse('adjustments', [definition.adjustments, layout], () =>
    definition.adjustments.map((adjustment, place) => compileAdjustment(adjustment, place, layout, compiler)),
  );
  const checks = compiler.reuse('checks', [definition.checks, layout], () =>
    definition.checks.map((check) => ({
      check,
      condition: compiler.compileCondition(check.condition, joinPath('checks', check.key, 'condition'), scope),
    })),
  );
  const parts = { definition, layout, fields, decisions, adjustments, checks };
  const fieldByKey = new Map(fields.map((field) => [field.field.key, field]));
  const stageForms = new Map<string, StageForm>();
  const stages = new Set(definition.stages.map((stage) => stage.key));
  const stageForm = (stage: string): StageForm => {
    const known = stageForms.get(stage);
    if (known) return known;
    if (!stages.has(stage)) throw new Error(`no stage ${stage}`);
    const column = JSON.stringify(Object.entries(definition.plan).map(([path, cells]) => [path, ownValue(cells, stage)]));
    const made = compiler.reuse(`stage ${stage}`, [fields, decisions, adjustments, checks, layout, column], () =>
      compileStage(parts, stage, compiler.diagnostics),
    );
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
    filled: fields.filter(({ fills }) => fills !== null),
    opens: openedBy(definition, findWorkflow).map(({ key }) => key),
    hasReferences: fields.some(
      ({ field, subFields }) => field.type === 'reference' || subFields.some((own) => own.field.type === 'reference'),
    ),
    get derivation() {
      derivation ??= compiler.reuse('derivation', [fields, decisions, layout], () => compileDerivation(parts));
      return derivation;
    },
    get readers() {
      readers ??= compiler.reuse('readers', [fields, decisions], () => makeReaders(fields, decisions));
      return readers;
    },
  };
}

/** The layout of before, as long as no name and no type of the scope has changed. */
function layOut(definition: Workflow, compiler: ExpressionCompiler, findWorkflow: FindWorkflow): WorkflowScope {
  const { fields, decisionTables, stages, tracks, handOffs } = definition;
  const named = JSON.stringify([stages, tracks, handOffs].map((list) => list.map(({ key, name }) => [key, name])));
  const neighbours = fields.flatMap((field) => [field, ...(field.type === 'table' ? field.fields : [])]);
  const others = neighbours.flatMap((field) => (field.type === 'reference' ? [findWorkflow(field.workflow)?.fields] : []));
  for (const followed of openedBy(definition, findWorkflow)) others.push(followed.fields ?? undefined);
  const opens = openedBy(definition, findWorkflow).map(({ key }) => key);
  return compiler.reuse('layout', [fields, decisionTables, named, opens.join(), ...others], () =>
    layOutScope(definition, findWorkflow),
  );
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
  const fill = (own: Field | SubField, path: string): CompiledExpression | null => {
    const text = defaultOf(own);
    return text === null ? null : given(compiler.compile(text, path, layout.scope, typeOfField(own, findWorkflow)), own);
  };
  const own = joinPath('fields', field.key);
  const rowScope = layout.rowScopes.get(field.key);
  const subFields =
    field.type === 'table' && rowScope
      ? field.fields.map((sub, index) => ({
          field: sub,
          index,
          computes: compute(sub, within(own, 'fields', sub.key, 'expression'), rowScope),
          fills: fill(sub, within(own, 'fields', sub.key, 'default')),
        }))
      : [];
  const computes = compute(field, within(own, 'expression'), layout.scope);
  return { field, slot, computes, fills: fill(field, within(own, 'default')), subFields };
}

/** A computed value reads as an entered one would: trimmed, in option order, in the workspace's zone. */
function settled(expression: CompiledExpression, field: Field | SubField): CompiledExpression {
  const settle = settlerOf(field);
  return settle ? followedBy(expression, settle) : expression;
}

/** A default reads as a set value does: settled, and rounded to the field's scale. */
const given = (expression: CompiledExpression, field: Field | SubField): CompiledExpression =>
  followedBy(expression, (value, zone) => {
    if (field.type === 'reference') return value;
    const read = readGivenValue(field, value, { zone, findRecord: () => null });
    return read.ok ? read.value : null;
  });

function followedBy(expression: CompiledExpression, follow: (value: Value, zone: string) => Value): CompiledExpression {
  return {
    text: expression.text,
    path: expression.path,
    get program() {
      return expression.program;
    },
    get checked() {
      return expression.checked;
    },
    evaluate: (frame) => follow(expression.evaluate(frame), frame.environment.zone),
  };
}

function compileAdjustment(
  adjustment: Adjustment,
  place: number,
  layout: WorkflowScope,
  compiler: ExpressionCompiler,
): CompiledAdjustment {
  const path = joinPath('adjustments', adjustment.key, 'when');
  const { tables, isPlain } = tablesAdjusted(adjustment);
  const condition = isPlain ? compiler.compileCondition(adjustment.when, path, layout.scope) : UNASKED;
  const rowConditions = new Map<string, CompiledCondition>();
  for (const table of tables) {
    const scope = layout.rowScopes.get(table);
    if (scope) rowConditions.set(table, compiler.compileCondition(adjustment.when, path, scope));
  }
  const decided: { treatment: Treatment; by: CompiledAdjustment | null } = { treatment: adjustment.treatment, by: null };
  const compiled = { adjustment, place, condition, rowConditions, decided };
  decided.by = compiled;
  return compiled;
}

type Parts = Omit<CompiledForms, 'fieldByKey' | 'stageForm' | 'filled' | 'opens' | 'hasReferences' | 'derivation' | 'readers'>;

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
  const isBefore = (slot: number): boolean => {
    const step = unordered[slot];
    return step !== undefined && !(step.kind === 'field' && step.isLasting);
  };
  const { order, cycle } = orderByDependency(unordered.map((step) => step.reads.filter(isBefore)));
  if (cycle) {
    const names = cycle.map((slot) => nameOfSlot(parts, slot));
    diagnostics.push(diagnostic('form/cycle', joinPath('stages', stage), { names }));
  }
  const steps = order.map((slot) => unordered[slot] as FormStep);
  const checks = parts.checks.filter(({ check }) => check.stages.length === 0 || check.stages.includes(stage));
  const fieldSteps = new Map(steps.flatMap((step) => (step.kind === 'field' ? [[step.of.field.key, step] as const] : [])));
  return {
    stage,
    steps,
    plain: plainOf(parts, steps),
    dependent: steps.filter((step) => step.kind === 'decision' || step.plain === null),
    fieldSteps,
    affected: affectedSteps(steps),
    checks,
  };
}

function plainOf(parts: Parts, steps: readonly FormStep[]): StageForm['plain'] {
  const decided: (Decided | undefined)[] = new Array(parts.fields.length).fill(undefined);
  const slots: number[] = [];
  for (const step of steps) {
    if (step.kind !== 'field') continue;
    if (step.plain) decided[step.slot] = step.plain;
    if (step.plain || step.isLasting) slots.push(step.slot);
  }
  return { decided, slots };
}

const nameOfSlot = (parts: Parts, slot: number): string =>
  parts.fields[slot]?.field.name ?? parts.decisions[slot - parts.fields.length]?.table.name ?? '';

const placementOf = (
  planned: Treatment,
  hiding: readonly CompiledAdjustment[],
  adjustments: readonly CompiledAdjustment[],
): Placement => ({ planned, unadjusted: { treatment: planned, by: null }, hiding, adjustments });

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
  const placement = placementOf(plannedTreatment(parts.definition, field.key, stage), hiding, adjustments);
  const conditions = [...hiding, ...adjustments].map(({ condition }) => condition.expression?.checked);
  const rows = field.type === 'table' ? rowSteps(parts, of, field, stage, here, diagnostics) : [];
  const isPlain = !of.computes && !of.fills && field.type !== 'table' && hiding.length === 0 && adjustments.length === 0;
  const rowReads = rows.flatMap(({ of: own, placement: row }) => [
    own.computes?.checked,
    ...row.adjustments.map((adjustment) => adjustment.rowConditions.get(field.key)?.expression?.checked),
  ]);
  return {
    kind: 'field',
    slot: of.slot,
    plain: isPlain ? cappedTo(isFixed(of), placement.unadjusted) : null,
    isFixed: isFixed(of),
    isLasting: field.type !== 'table' && isLasting(of, placement),
    of,
    placement,
    reads: slotsRead(parts.layout, [of.computes?.checked, of.fills?.checked, ...conditions, ...rowReads]),
    rows,
  };
}

/** An adjustment of a table, as it treats the table's cells: under the same condition in every row. */
function forCellsOf(table: TableField, { adjustment, place, condition }: CompiledAdjustment): CompiledAdjustment {
  const decided: { treatment: Treatment; by: CompiledAdjustment | null } = {
    treatment: subFieldDefault(adjustment.treatment),
    by: null,
  };
  const compiled = { adjustment, place, condition, rowConditions: new Map([[table.key, condition]]), decided };
  decided.by = compiled;
  return compiled;
}

function rowSteps(
  parts: Parts,
  of: CompiledField,
  table: TableField,
  stage: string,
  here: Coverage<CompiledAdjustment>,
  diagnostics: Diagnostic[],
): readonly RowStep[] {
  const ofTable = coveringOf(table, here).map((own) => forCellsOf(table, own));
  const steps = of.subFields.map((own) => {
    const path = fieldPath(table.key, own.field.key);
    const direct = here.byPath.get(path) ?? [];
    // Cells of which the plan says nothing are treated as their table is, also while an adjustment treats the table otherwise.
    const follows = hasOwnCell(parts.definition, path, stage) ? [] : ofTable;
    const adjustments = follows.length === 0 ? direct : [...direct, ...follows].sort((a, b) => a.place - b.place);
    const placement = placementOf(plannedTreatment(parts.definition, path, stage), [], adjustments);
    return { of: own, placement, isFixed: isFixed(own), isLasting: isLasting(own, placement) };
  });
  const { order, cycle } = orderRow(
    table,
    (index) => {
      const step = steps[index];
      const conditions = step?.placement.adjustments.map((one) => one.rowConditions.get(table.key)?.expression) ?? [];
      return [step?.of.computes, ...conditions];
    },
    (index) => steps[index]?.isLasting !== true,
  );
  if (cycle) {
    const names = cycle.map((index) => `${table.name}: ${table.fields[index]?.name ?? ''}`);
    diagnostics.push(diagnostic('form/cycle', joinPath('stages', stage), { names }));
  }
  return order.map((index) => steps[index] as RowStep);
}
