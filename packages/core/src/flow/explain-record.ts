import type { CompiledCondition } from '../expressions/compiler.ts';
import { type Explanation, explainExpression } from '../expressions/explain.ts';
import { makeFrame } from '../expressions/frame.ts';
import type { CompiledAdjustment } from '../forms/compile-forms.ts';
import { decidedOf, type Form } from '../forms/evaluate-form.ts';
import type { Treatment } from '../model/field.ts';
import type { Truth } from '../values/value.ts';
import { chooseBranch } from './choose-branch.ts';
import type { CompiledWorkflow } from './compile-workflow.ts';
import type { TraceStep } from './events.ts';

/** A condition as it stood: its truth, and each node's value where there is an expression. */
export type Reason = { readonly truth: Truth; readonly explanation: Explanation | null };

export type BranchReason = Reason & {
  readonly key: string;
  readonly name: string;
  readonly to: string;
  /** `taken`, `passed over` because an earlier branch holds, or `refused`. */
  readonly outcome: 'taken' | 'passed-over' | 'not-taken';
};

export type HandOffReason = {
  readonly key: string;
  readonly name: string;
  readonly offered: Reason;
  readonly branches: readonly BranchReason[];
  readonly otherwise: { readonly to: string; readonly taken: boolean } | null;
  /** Where the record would go now; null when no branch takes it. */
  readonly leadsTo: string | null;
};

export type FieldReason = {
  readonly field: string;
  readonly treatment: Treatment;
  readonly planned: Treatment;
  /** Every adjustment that covers the field here, in order, and whether it decides. */
  readonly adjustments: readonly (Reason & {
    readonly adjustment: CompiledAdjustment['adjustment'];
    readonly decides: boolean;
  })[];
};

/** Explains one condition on a form. */
export function explainCondition(condition: CompiledCondition, form: Form): Reason {
  const checked = condition.expression?.checked;
  if (!checked) return { truth: condition.expression ? null : true, explanation: null };
  const frame = makeFrame(form.frame.slots, form.frame.environment);
  const explanation = explainExpression(checked, frame);
  const truth = explanation.value === true ? true : explanation.value === false ? false : null;
  return { truth, explanation };
}

/** What each hand-off of the form's stage would do now, branch by branch. Set-values are left out: they come after. */
export function explainHandOffs(workflow: CompiledWorkflow, form: Form): readonly HandOffReason[] {
  const stage = workflow.stages.get(form.stageForm.stage);
  return (stage?.handOffs ?? []).map((compiled) => {
    const trace: TraceStep[] = [];
    const chosen = chooseBranch(compiled, form.frame, trace);
    const taken = trace.findIndex((step) => step.kind === 'branch' && step.taken);
    const branches = compiled.branches.map(
      ({ branch, condition }, index): BranchReason => ({
        ...explainCondition(condition, form),
        key: branch.key,
        name: branch.name,
        to: branch.to,
        outcome: index === taken ? 'taken' : taken >= 0 && index > taken ? 'passed-over' : 'not-taken',
      }),
    );
    const { otherwise } = compiled.handOff;
    return {
      key: compiled.handOff.key,
      name: compiled.handOff.name,
      offered: explainCondition(compiled.offered, form),
      branches,
      otherwise: otherwise && { to: otherwise.to, taken: chosen.ok && chosen.value.branch === null },
      leadsTo: chosen.ok ? chosen.value.destination.to : null,
    };
  });
}

/** Why each field that an adjustment covers at the form's stage is treated as it is. */
export function explainFields(form: Form): readonly FieldReason[] {
  return form.stageForm.steps.flatMap((step): readonly FieldReason[] => {
    if (step.kind !== 'field') return [];
    const covering = [...step.placement.hiding, ...step.placement.adjustments];
    if (covering.length === 0) return [];
    const decided = decidedOf(form, step.of);
    const adjustments = covering.map((compiled) => ({
      ...explainCondition(compiled.condition, form),
      adjustment: compiled.adjustment,
      decides: decided.by === compiled,
    }));
    return [{ field: step.of.field.key, treatment: decided.treatment, planned: step.placement.planned, adjustments }];
  });
}
