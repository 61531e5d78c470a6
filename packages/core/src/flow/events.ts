import type { Json } from '../shared/json.ts';
import type { WorkflowRecord } from './record.ts';

/** What happened to a record, as its history keeps it. Field keys only: values stay in the record. */
export type RecordEvent =
  | {
      readonly type: 'handed-on';
      readonly handOff: string;
      readonly from: string;
      readonly to: string;
      readonly branch: string | null;
      readonly track: string | null;
      readonly changed: readonly string[];
    }
  | { readonly type: 'passed-junction'; readonly stage: string; readonly to: string; readonly branch: string | null };

/** Who a mail goes to. Roles and members are turned into addresses by whoever knows the members. */
export type Address =
  | { readonly kind: 'role'; readonly role: string }
  | { readonly kind: 'member'; readonly member: string }
  | { readonly kind: 'address'; readonly address: string };

/** A delivery to be queued. */
export type MailConsequence = {
  readonly type: 'mail';
  readonly delivery: string;
  readonly name: string;
  readonly to: readonly Address[];
  readonly subject: string;
  readonly body: string;
};

/** A record to be opened in another workflow. */
export type FollowUpConsequence = {
  readonly type: 'follow-up';
  readonly followUp: string;
  readonly workflow: string;
  readonly handOff: string;
  readonly link: string | null;
  readonly row: string | null;
  readonly values: Readonly<Record<string, Json>>;
};

export type Acknowledged = { readonly text: string };

/** One decision on the way, for reasons: what was tried and what came of it. */
export type TraceStep = {
  readonly kind: 'branch' | 'otherwise' | 'delivery' | 'acknowledgement' | 'follow-up';
  readonly owner: string;
  readonly key: string;
  readonly truth: boolean | null;
  readonly taken: boolean;
};

/** What a hand-off comes to. Nothing has been stored or sent yet. */
export type HandedOn = {
  readonly record: WorkflowRecord;
  readonly events: readonly RecordEvent[];
  readonly deliveries: readonly MailConsequence[];
  readonly followUps: readonly FollowUpConsequence[];
  readonly acknowledgement: Acknowledged | null;
  readonly trace: readonly TraceStep[];
};
