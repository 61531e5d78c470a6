import type { Explanation } from '../expressions/explain.ts';
import type { Json } from '../shared/json.ts';
import type { RichText } from '../templates/rich-text.ts';
import type { Truth } from '../values/value.ts';
import type { Assignee, WorkflowRecord } from './record.ts';

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
      /** Fields that had a value and lost it, because an adjustment hid them at the stage that was left. */
      readonly dropped?: readonly string[];
      /** Why the stage's roles have it although the stage assigns it to somebody. */
      readonly unassigned?: Unassigned;
    }
  | { readonly type: 'passed-junction'; readonly stage: string; readonly to: string; readonly branch: string | null }
  /** It began as a follow-up. `issues`: why it waits at its intake; none where it went on. */
  | {
      readonly type: 'opened';
      readonly by: { readonly workflow: string; readonly record: string; readonly number: string | null };
      readonly at: string;
      readonly issues: readonly string[];
    }
  /** Whoever handed it on took that back before anything was sent: it is again as it was at the stage `to`. */
  | { readonly type: 'taken-back'; readonly handOff: string; readonly from: string; readonly to: string }
  /** Somebody took the work, gave it back, or handed it over to a colleague, by id. */
  | { readonly type: 'taken' | 'given-back'; readonly stage: string }
  | { readonly type: 'handed-over'; readonly stage: string; readonly member: string }
  /** The clock reminded of it: how many deliveries went out. */
  | { readonly type: 'reminded'; readonly stage: string; readonly reminder: string; readonly sent: number }
  /** A hand-off by the clock was refused, and why, by codes. */
  | {
      readonly type: 'clock-refused';
      readonly stage: string;
      readonly handOff: string;
      readonly issues: readonly string[];
    }
  /** The record that opened it gave it its carried values anew; `left`: fields whose value stayed as it was. */
  | {
      readonly type: 'refreshed';
      readonly by: { readonly workflow: string; readonly record: string; readonly number: string | null };
      readonly changed: readonly string[];
      readonly left: readonly string[];
    }
  /** A web endpoint answered, and values were taken from it. */
  | { readonly type: 'answered'; readonly delivery: string; readonly outlet: string; readonly changed: readonly string[] }
  /** A web endpoint answered, and the answer didn't fit: nothing was taken from it. Why, by codes. */
  | { readonly type: 'answer-refused'; readonly delivery: string; readonly outlet: string; readonly issues: readonly string[] }
  /** A person decided that a delivery isn't sent any more. */
  | { readonly type: 'put-away'; readonly delivery: string; readonly outlet: string };

/** The types of what happens to a record. */
export const EVENT_TYPES = [
  'handed-on',
  'passed-junction',
  'taken-back',
  'opened',
  'answered',
  'answer-refused',
  'put-away',
  'refreshed',
  'reminded',
  'clock-refused',
  'taken',
  'given-back',
  'handed-over',
] as const satisfies readonly RecordEvent['type'][];

/** Who a mail goes to. Roles and members are turned into addresses by whoever knows the members. */
export type Address =
  | { readonly kind: 'role'; readonly role: string }
  | { readonly kind: 'member'; readonly member: string }
  | { readonly kind: 'address'; readonly address: string };

/** The record, or what it is said to hold, in a file that goes along or is written. */
export type Written =
  | { readonly format: 'json'; readonly text: string }
  /** The names of the columns, and one row. */
  | { readonly format: 'csv'; readonly head: readonly string[]; readonly row: readonly string[] }
  | { readonly format: 'pdf'; readonly title: string; readonly text: RichText };

/** A file of the record's own, by the SHA-256 of what is in it. */
export type SentFile = {
  readonly name: string;
  readonly mediaType: string;
  readonly bytes: number;
  readonly sha256: string;
};

/** A mail to be queued. */
export type MailConsequence = {
  readonly type: 'mail';
  readonly delivery: string;
  readonly name: string;
  readonly outlet: string;
  readonly to: readonly Address[];
  readonly cc: readonly Address[];
  readonly bcc: readonly Address[];
  readonly replyTo: readonly Address[];
  /**
   * Recipients, counted from 1 through all four lists, that can't be written to: an expression gave something that isn't one
   * e-mail address, or the member is gone. A person must look.
   */
  readonly unfit: readonly number[];
  /** Receivers' addresses that stand in a value of the record, so that whoever entered it chose them. */
  readonly fromValues?: readonly string[];
  /** Whether its only receiver's address was made from confidential values: it is told to their readers alone. */
  readonly hidesReceivers?: true;
  readonly senderName: string;
  readonly subject: string;
  readonly body: RichText;
  readonly attached: Written | null;
  readonly files: readonly SentFile[];
};

/** A request to a web endpoint, to be queued. */
export type WebConsequence = {
  readonly type: 'web';
  readonly delivery: string;
  readonly name: string;
  readonly outlet: string;
  readonly method: 'POST' | 'PUT' | 'PATCH' | 'DELETE';
  /** What follows the outlet's own address. */
  readonly address: string;
  readonly headers: readonly (readonly [name: string, value: string])[];
  readonly mediaType: 'application/json' | 'application/x-www-form-urlencoded';
  readonly body: string;
  readonly expects: string;
  readonly answers: readonly { readonly name: string; readonly field: string }[];
};

/** A file for a register, to be queued. */
export type FileConsequence = {
  readonly type: 'file';
  readonly delivery: string;
  readonly name: string;
  readonly outlet: string;
  readonly folder: string;
  readonly fileName: string;
  readonly exists: 'number' | 'replace' | 'refuse';
  readonly written: Written;
};

/** A delivery to be queued. */
export type DeliveryConsequence = MailConsequence | WebConsequence | FileConsequence;

/** A record to be opened in another workflow. */
export type FollowUpConsequence = {
  readonly type: 'follow-up';
  readonly followUp: string;
  readonly name: string;
  readonly workflow: string;
  readonly handOff: string;
  readonly link: string | null;
  readonly row: string | null;
  readonly values: Readonly<Record<string, Json>>;
  /** Who is to have it where it begins; null: whoever may act there. */
  readonly assignee: Assignee | null;
};

export type Acknowledged = {
  readonly acknowledgement: string;
  readonly text: RichText;
  /** The page that is offered next; null for none. Whoever offers it looks whether it is one that may be. */
  readonly next: string | null;
};

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

/** Carried values that a record opened earlier is to get anew, if it is open still. `row`: of the row it was opened for. */
export type RefreshConsequence = Pick<FollowUpConsequence, 'followUp' | 'workflow' | 'row' | 'values'> & {
  readonly type: 'refresh';
};

/** What a hand-off comes to. Nothing has been stored or sent yet. */
export type HandedOn = {
  readonly record: WorkflowRecord;
  readonly events: readonly RecordEvent[];
  readonly deliveries: readonly DeliveryConsequence[];
  readonly followUps: readonly FollowUpConsequence[];
  readonly refreshes: readonly RefreshConsequence[];
  readonly acknowledgement: Acknowledged | null;
};
