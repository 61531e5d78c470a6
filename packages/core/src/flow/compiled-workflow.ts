import type { CompiledCondition, CompiledExpression } from '../expressions/compiler.ts';
import type { FindWorkflow } from '../expressions/workflow-scope.ts';
import type { CompiledField } from '../forms/compiled-field.ts';
import type { CompiledForms } from '../forms/compiled-forms.ts';
import type {
  Acknowledgement,
  FileDelivery,
  FollowUp,
  MailDelivery,
  Property,
  Recipient,
  WebDelivery,
} from '../model/consequence.ts';
import type { Field, SubField } from '../model/field.ts';
import type { Branch, HandOff, Reminder, Stage } from '../model/flow.ts';
import type { SetValue } from '../model/set-value.ts';
import type { Workflow } from '../model/workflow.ts';
import type { CompiledLine, CompiledTemplate } from '../templates/compile-template.ts';

export type CompiledSet = { readonly set: SetValue; readonly of: CompiledField; readonly value: CompiledExpression };
export type CompiledBranch = { readonly branch: Branch; readonly condition: CompiledCondition };
export type CompiledRecipient = { readonly recipient: Recipient; readonly expression: CompiledExpression | null };
export type CompiledProperty = {
  readonly property: Property;
  readonly value: CompiledExpression;
  /** The field that is its value, for labels; null where it is made. */
  readonly field: Field | SubField | null;
};
export type CompiledMail = {
  readonly kind: 'mail';
  readonly delivery: MailDelivery;
  readonly condition: CompiledCondition;
  readonly to: readonly CompiledRecipient[];
  readonly cc: readonly CompiledRecipient[];
  readonly bcc: readonly CompiledRecipient[];
  readonly replyTo: readonly CompiledRecipient[];
  readonly senderName: CompiledLine;
  readonly subject: CompiledLine;
  readonly body: CompiledTemplate;
};
export type CompiledWeb = {
  readonly kind: 'web';
  readonly delivery: WebDelivery;
  readonly condition: CompiledCondition;
  readonly address: CompiledLine;
  readonly headers: readonly { readonly header: WebDelivery['headers'][number]; readonly value: CompiledLine }[];
  readonly properties: readonly CompiledProperty[];
};
export type CompiledFile = {
  readonly kind: 'file';
  readonly delivery: FileDelivery;
  readonly condition: CompiledCondition;
  readonly folder: CompiledLine;
  readonly fileName: CompiledLine;
  readonly properties: readonly CompiledProperty[];
  readonly body: CompiledTemplate;
};
export type CompiledDelivery = CompiledMail | CompiledWeb | CompiledFile;
export type CompiledAcknowledgement = {
  readonly acknowledgement: Acknowledgement;
  readonly condition: CompiledCondition;
  readonly text: CompiledTemplate;
  readonly next: CompiledLine;
};
export type CompiledFollowUp = {
  readonly followUp: FollowUp;
  readonly condition: CompiledCondition;
  /** `field`: the target's, where the target is known. */
  readonly carried: readonly { readonly set: SetValue; readonly field: Field | null; readonly value: CompiledExpression }[];
  /** The member who has it, where an expression says so. */
  readonly assignee: CompiledExpression | null;
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

export type CompiledReminder = { readonly reminder: Reminder; readonly deliveries: readonly CompiledDelivery[] };

export type CompiledStage = {
  readonly stage: Stage;
  readonly sets: readonly CompiledSet[];
  readonly deliveries: readonly CompiledDelivery[];
  readonly assignee: CompiledExpression | null;
  readonly due: CompiledExpression | null;
  readonly reminders: readonly CompiledReminder[];
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
