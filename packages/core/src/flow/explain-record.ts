import type { CompiledAdjustment } from '../forms/compiled-forms.ts';
import { decidedOf, type Form } from '../forms/evaluate-form.ts';
import type { Treatment } from '../model/treatment.ts';
import type { Diagnostic } from '../shared/diagnostic.ts';
import type { CompiledHandOff, CompiledWorkflow } from './compiled-workflow.ts';
import type { HandedOn, Outcome, TraceStep } from './events.ts';
import { passOn } from './pass.ts';
import type { Actor, Outside, WorkflowRecord } from './record.ts';
import { explainCondition, type Reason } from './trace.ts';

export type BranchReason = Reason & {
  readonly key: string;
  readonly name: string;
  readonly to: string;
  readonly outcome: Outcome;
};

/** The branches of a hand-off, or of a junction on the way. */
export type WayReason = {
  readonly handOff: string;
  /** The junction it leaves; null for the hand-off itself. */
  readonly junction: string | null;
  readonly branches: readonly BranchReason[];
  readonly otherwise: { readonly to: string; readonly outcome: Outcome } | null;
};

export type HandOffReason = {
  readonly key: string;
  readonly name: string;
  readonly offered: Reason;
  /** The hand-off's own branches first, then those of each junction it passes. */
  readonly ways: readonly WayReason[];
  /** The stage at which the record would come to rest; null when it would be refused. */
  readonly leadsTo: string | null;
  /** Why it would be refused, whatever the form says. */
  readonly refusals: readonly Diagnostic[];
  /** What else was decided: mails, acknowledgements, follow-ups. */
  readonly consequences: readonly TraceStep[];
  readonly handedOn: HandedOn | null;
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

/**
 * What each hand-off of the form's stage would do now, and why: the hand-off itself is decided and its trace told, as if
 * the form had no issues. Nothing comes of it.
 */
export function explainHandOffs(
  workflow: CompiledWorkflow,
  form: Form,
  record: WorkflowRecord,
  actor: Actor,
  outside: Outside,
): readonly HandOffReason[] {
  const stage = workflow.stages.get(form.stageForm.stage);
  return (stage?.handOffs ?? []).map((handOff) => {
    const { result, trace } = passOn({ workflow, record, handOff, form, actor, outside }, true);
    const ways = waysOf(workflow, handOff, trace);
    return {
      key: handOff.handOff.key,
      name: handOff.handOff.name,
      offered: explainCondition(handOff.offered, form.frame),
      ways,
      leadsTo: result.ok ? result.value.record.stage : null,
      refusals: result.ok ? [] : result.diagnostics,
      consequences: trace.filter(({ kind }) => kind !== 'branch' && kind !== 'otherwise'),
      handedOn: result.ok ? result.value : null,
    };
  });
}

function waysOf(workflow: CompiledWorkflow, first: CompiledHandOff, trace: readonly TraceStep[]): readonly WayReason[] {
  const owners = [...new Set(trace.filter(({ kind }) => kind === 'branch' || kind === 'otherwise').map(({ owner }) => owner))];
  return owners.flatMap((owner) => {
    const compiled = workflow.handOffs.get(owner);
    if (!compiled) return [];
    const { handOff } = compiled;
    const steps = new Map(trace.filter((step) => step.owner === owner && step.kind === 'branch').map((step) => [step.key, step]));
    const rest = trace.find((step) => step.owner === owner && step.kind === 'otherwise');
    const branches = compiled.branches.flatMap(({ branch }): readonly BranchReason[] => {
      const step = steps.get(branch.key);
      if (!step) return [];
      const { truth, outcome, explanation } = step;
      return [{ key: branch.key, name: branch.name, to: branch.to, truth, outcome, explanation }];
    });
    const otherwise = rest && handOff.otherwise ? { to: handOff.otherwise.to, outcome: rest.outcome } : null;
    return [{ handOff: owner, junction: compiled === first ? null : handOff.from, branches, otherwise }];
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
      ...explainCondition(compiled.condition, form.frame),
      adjustment: compiled.adjustment,
      decides: decided.by === compiled,
    }));
    return [{ field: step.of.field.key, treatment: decided.treatment, planned: step.placement.planned, adjustments }];
  });
}
