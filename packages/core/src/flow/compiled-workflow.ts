import type { CompiledCondition, CompiledExpression } from '../expressions/compiler.ts';
import type { FindWorkflow } from '../expressions/workflow-scope.ts';
import type { CompiledField } from '../forms/compiled-field.ts';
import type { CompiledForms } from '../forms/compiled-forms.ts';
import type { Field } from '../model/field.ts';
import type { Acknowledgement, Branch, Delivery, FollowUp, HandOff, Recipient, SetValue, Stage } from '../model/flow.ts';
import type { Workflow } from '../model/workflow.ts';
import type { CompiledTemplate } from './template.ts';

export type CompiledSet = { readonly set: SetValue; readonly of: CompiledField; readonly value: CompiledExpression };
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
  /** `field`: the target's, where the target is known. */
  readonly carried: readonly { readonly set: SetValue; readonly field: Field | null; readonly value: CompiledExpression }[];
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
  /** The definitions of the workflows it refers to. */
  readonly findWorkflow: FindWorkflow;
};
