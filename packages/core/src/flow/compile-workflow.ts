import { type CompiledCondition, type CompiledExpression, ExpressionCompiler } from '../expressions/compiler.ts';
import type { Scope } from '../expressions/scope.ts';
import { TYPES, type Type } from '../expressions/types.ts';
import { type FindWorkflow, typeOfField } from '../expressions/workflow-scope.ts';
import { type CompiledForms, compileForms } from '../forms/compile-forms.ts';
import type {
  Acknowledgement,
  Assignment,
  Branch,
  Delivery,
  FollowUp,
  HandOff,
  Recipient,
  SetValue,
  Stage,
} from '../model/flow.ts';
import { checkInvariants } from '../model/invariants.ts';
import { findField } from '../model/lookup.ts';
import type { Workflow } from '../model/workflow.ts';
import type { Diagnostic } from '../shared/diagnostic.ts';
import { type CompiledTemplate, compileTemplate } from './template.ts';

export type CompiledSet = { readonly set: SetValue; readonly slot: number; readonly value: CompiledExpression };
export type CompiledBranch = { readonly branch: Branch; readonly condition: CompiledCondition };
export type CompiledRecipient = { readonly recipient: Recipient; readonly expression: CompiledExpression | null };
export type CompiledDelivery = {
  readonly delivery: Delivery;
  readonly condition: CompiledCondition;
  readonly to: readonly CompiledRecipient[];
  readonly subject: CompiledTemplate;
  readonly body: CompiledTemplate;
};
export type CompiledAcknowledgement = {
  readonly acknowledgement: Acknowledgement;
  readonly condition: CompiledCondition;
  readonly text: CompiledTemplate;
};
export type CompiledFollowUp = {
  readonly followUp: FollowUp;
  readonly condition: CompiledCondition;
  readonly carried: readonly { readonly field: string; readonly value: CompiledExpression }[];
};

export type CompiledHandOff = {
  readonly handOff: HandOff;
  readonly offered: CompiledCondition;
  readonly branches: readonly CompiledBranch[];
  readonly sets: readonly CompiledSet[];
  readonly deliveries: readonly CompiledDelivery[];
  readonly acknowledgements: readonly CompiledAcknowledgement[];
  readonly followUps: readonly CompiledFollowUp[];
};

export type CompiledStage = {
  readonly stage: Stage;
  readonly sets: readonly CompiledSet[];
  readonly deliveries: readonly CompiledDelivery[];
  readonly assignee: CompiledExpression | null;
  readonly handOffs: readonly CompiledHandOff[];
};

/** A workflow, compiled once: immutable, shared by everything that decides. */
export type CompiledWorkflow = {
  readonly definition: Workflow;
  readonly forms: CompiledForms;
  readonly stages: ReadonlyMap<string, CompiledStage>;
  readonly handOffs: ReadonlyMap<string, CompiledHandOff>;
  /** Faults of the definition. While there are any it can't be published, but the rest can still be rehearsed. */
  readonly diagnostics: readonly Diagnostic[];
};

/** Compiles a definition. Never fails: what is wrong is in `diagnostics`, and a faulty expression yields null. */
export function compileWorkflow(definition: Workflow, findWorkflow: FindWorkflow = () => null): CompiledWorkflow {
  const compiler = new ExpressionCompiler();
  const forms = compileForms(definition, compiler, findWorkflow);
  const builder = new FlowBuilder(definition, forms, compiler, findWorkflow);
  const handOffs = new Map(definition.handOffs.map((handOff, index) => [handOff.key, builder.handOff(handOff, index)]));
  const stages = new Map(
    definition.stages.map((stage, index) => [stage.key, builder.stage(stage, index, [...handOffs.values()])]),
  );
  return { definition, forms, stages, handOffs, diagnostics: [...checkInvariants(definition), ...compiler.diagnostics] };
}

class FlowBuilder {
  private readonly scope: Scope;

  constructor(
    private readonly definition: Workflow,
    private readonly forms: CompiledForms,
    private readonly compiler: ExpressionCompiler,
    private readonly findWorkflow: FindWorkflow,
  ) {
    this.scope = forms.layout.scope;
  }

  handOff(handOff: HandOff, index: number): CompiledHandOff {
    const path = `handOffs.${index}`;
    return {
      handOff,
      offered: this.condition(handOff.offeredWhen, `${path}.offeredWhen`),
      branches: handOff.branches.map((branch, at) => ({
        branch,
        condition: this.condition(branch.when, `${path}.branches.${at}.when`),
      })),
      sets: this.sets(handOff.sets, `${path}.sets`),
      deliveries: handOff.deliveries.map((delivery, at) => this.delivery(delivery, `${path}.deliveries.${at}`)),
      acknowledgements: handOff.acknowledgements.map((acknowledgement, at) => ({
        acknowledgement,
        condition: this.condition(acknowledgement.when, `${path}.acknowledgements.${at}.when`),
        text: this.template(acknowledgement.text, `${path}.acknowledgements.${at}.text`),
      })),
      followUps: handOff.followUps.map((followUp, at) => this.followUp(followUp, `${path}.followUps.${at}`)),
    };
  }

  stage(stage: Stage, index: number, handOffs: readonly CompiledHandOff[]): CompiledStage {
    const path = `stages.${index}`;
    const { assignment } = stage;
    return {
      stage,
      sets: this.sets(stage.onArrival.sets, `${path}.onArrival.sets`),
      deliveries: stage.onArrival.deliveries.map((delivery, at) => this.delivery(delivery, `${path}.onArrival.deliveries.${at}`)),
      assignee: assignment && assignment.kind !== 'role' ? this.assignee(assignment, `${path}.assignment.expression`) : null,
      handOffs: handOffs.filter(({ handOff }) => handOff.from === stage.key),
    };
  }

  /** A role that an expression names must be one of the workflow's. */
  private assignee(assignment: Exclude<Assignment, { kind: 'role' }>, path: string): CompiledExpression {
    const options = this.definition.roles.map(({ key, name }) => ({ code: key, label: name }));
    const expected: Type = assignment.kind === 'role-of' ? { kind: 'choice', options } : TYPES.text;
    return this.compiler.compile(assignment.expression, path, this.scope, expected);
  }

  private condition(text: string | null, path: string): CompiledCondition {
    return this.compiler.compileCondition(text, path, this.scope);
  }

  private template(text: string, path: string): CompiledTemplate {
    return compileTemplate(text, path, this.scope, this.definition, this.compiler);
  }

  private sets(sets: readonly SetValue[], path: string): readonly CompiledSet[] {
    return sets.flatMap((set, index) => {
      const field = findField(this.definition, set.field);
      const slot = this.forms.fieldByKey.get(set.field)?.slot;
      if (!field || slot === undefined) return [];
      const value = this.compiler.compile(set.value, `${path}.${index}.value`, this.scope, typeOfField(field, this.findWorkflow));
      return [{ set, slot, value }];
    });
  }

  private delivery(delivery: Delivery, path: string): CompiledDelivery {
    return {
      delivery,
      condition: this.condition(delivery.when, `${path}.when`),
      to: delivery.to.map((recipient, index) => ({
        recipient,
        expression:
          recipient.kind === 'expression'
            ? this.compiler.compile(recipient.expression, `${path}.to.${index}.expression`, this.scope, TYPES.text)
            : null,
      })),
      subject: this.template(delivery.subject, `${path}.subject`),
      body: this.template(delivery.body, `${path}.body`),
    };
  }

  private followUp(followUp: FollowUp, path: string): CompiledFollowUp {
    const scope = followUp.perRow === null ? this.scope : (this.forms.layout.rowScopes.get(followUp.perRow) ?? this.scope);
    const target = this.findWorkflow(followUp.workflow);
    return {
      followUp,
      condition: this.compiler.compileCondition(followUp.when, `${path}.when`, scope),
      carried: followUp.carried.map((set, index) => {
        const field = target && findField(target, set.field);
        const expected = field ? typeOfField(field, this.findWorkflow) : undefined;
        return { field: set.field, value: this.compiler.compile(set.value, `${path}.carried.${index}.value`, scope, expected) };
      }),
    };
  }
}
