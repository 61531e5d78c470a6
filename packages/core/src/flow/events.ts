import type { Explanation } from '../expressions/explain.ts';
import type { Json } from '../shared/json.ts';
import type { Truth } from '../values/value.ts';
import type { WorkflowRecord } from './record.ts';

/** Why an assignment came to nobody: no value, no such member, a member without a role of the stage, no such role. */
export type Unassigned = 'nobody' | 'unknown-member' | 'without-role' | 'unknown-role';

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
      /** Why the stage's roles have it although the stage assigns it to somebody. */
      readonly unassigned?: Unassigned;
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
  /** Recipients, counted from 1, whose expression gave something that isn't one e-mail address: a person must look. */
  readonly unfit: readonly number[];
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

/**
 * What came of something that could be done: done; tried and passed over because its condition doesn't hold; not tried
 * because another was taken before; or refused because it holds together with another where only one may.
 */
export type Outcome = 'taken' | 'passed-over' | 'not-tried' | 'clash';

/** One decision on the way, for reasons. `owner`: the hand-off or stage it belongs to. */
export type TraceStep = {
  readonly kind: 'branch' | 'otherwise' | 'delivery' | 'acknowledgement' | 'follow-up';
  readonly owner: string;
  readonly key: string;
  readonly truth: Truth;
  readonly outcome: Outcome;
  /** The condition as it stood then. */
  readonly explanation: Explanation | null;
};

/** What a hand-off comes to. Nothing has been stored or sent yet. */
export type HandedOn = {
  readonly record: WorkflowRecord;
  readonly events: readonly RecordEvent[];
  readonly deliveries: readonly MailConsequence[];
  readonly followUps: readonly FollowUpConsequence[];
  readonly acknowledgement: Acknowledged | null;
};
