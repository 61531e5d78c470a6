import { z } from 'zod';
import { Acknowledgement, Delivery, FollowUp, ListPolicy } from './consequence.ts';
import { ConditionText, ExpressionText, Treatment } from './field.ts';
import { FIELD_PATH_PATTERN } from './field-path.ts';
import { Key } from './keys.ts';
import { SetValue } from './set-value.ts';

const Name = z.string().min(1).max(200);
/** Words for colleagues who design; no participant sees them. */
export const Notes = z.string().max(5000).default('');

/** Where a branch leads, and the track the record is on from there (null: unchanged). */
const destination = { to: Key, track: Key.nullable().default(null) };
export const Destination = z.strictObject(destination);
export type Destination = z.infer<typeof Destination>;

export const Branch = z.strictObject({ key: Key, name: Name, when: ExpressionText, ...destination });
export type Branch = z.infer<typeof Branch>;

const branching = {
  policy: z.enum(['first', 'single']).default('first'),
  branches: z.array(Branch).max(1000).default([]),
  otherwise: Destination.nullable().default(null),
};

/** Whose the work is within a role: everybody's, or one member's: the one whose turn it is, or who has least. */
const share = z.enum(['everybody', 'in-turn', 'least-loaded']).default('everybody');
/** The role that has it when nobody fits; null: whoever may act at the stage. */
const otherwise = Key.nullable().default(null);

/**
 * Who has the work at a stage: a role, the member that an expression names (a field, a decision table), or the role that
 * one names. Null where the expression is: whoever may act at the stage.
 */
export const Assignment = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('role'), role: Key, share, otherwise }),
  z.strictObject({ kind: z.literal('member'), expression: ExpressionText, otherwise }),
  z.strictObject({ kind: z.literal('role-of'), expression: ExpressionText, share, otherwise }),
]);
export type Assignment = z.infer<typeof Assignment>;

/** What happens when a record arrives at a stage. */
export const Arrival = z.strictObject({
  sets: z.array(SetValue).max(200).default([]),
  deliveries: z.array(Delivery).max(200).default([]),
  deliveryPolicy: ListPolicy,
});

/** How long before or after a due date: `{"count": 3, "unit": "working-days", "side": "before"}`. */
export const Offset = z.strictObject({
  count: z.number().int().min(0).max(10_000),
  unit: z.enum(['minutes', 'hours', 'days', 'working-hours', 'working-days']).default('days'),
  side: z.enum(['before', 'after']).default('before'),
});
export type Offset = z.infer<typeof Offset>;

/** What is sent at a time before or after a stage's due date, once for each stay there. */
export const Reminder = z.strictObject({
  key: Key,
  name: Name,
  offset: Offset,
  deliveries: z.array(Delivery).max(50).default([]),
  deliveryPolicy: ListPolicy,
});
export type Reminder = z.infer<typeof Reminder>;

/** A hand-off that happens by itself so long after (or before) its stage's due date. */
export const ByClock = z.strictObject({
  offset: Offset.prefault({ count: 0, side: 'after' }),
  /** Nobody presses it: it is the clock's alone. */
  alone: z.boolean().default(false),
});
export type ByClock = z.infer<typeof ByClock>;

export const Stage = z.strictObject({
  key: Key,
  name: Name,
  notes: Notes,
  kind: z.enum(['intake', 'work', 'junction', 'end']),
  tracks: z.array(Key).min(1).max(20),
  /** Who may act here. */
  roles: z.array(Key).max(50).default([]),
  assignment: Assignment.nullable().default(null),
  onArrival: Arrival.prefault({}),
  /** An expression over the record that comes to a date (the end of that day) or a date and time: when it is to be done here. */
  due: ExpressionText.nullable().default(null),
  reminders: z.array(Reminder).max(50).default([]),
});
export type Stage = z.infer<typeof Stage>;

/** The button with which a participant passes the record on; at a junction, what happens by itself. */
export const HandOff = z.strictObject({
  key: Key,
  name: Name,
  from: Key,
  /** Empty: whoever may act at the stage. */
  roles: z.array(Key).max(50).default([]),
  offeredWhen: ConditionText.default(null),
  /** `full` refuses while the form has issues; `none` lets the record go (save, send back). */
  checking: z.enum(['full', 'none']).default('full'),
  /** How the button looks: `primary` is filled, `plain` is outlined, `final` is outlined and asks for a confirmation first. */
  emphasis: z.enum(['primary', 'plain', 'final']).default('plain'),
  /** The text of the confirmation of a `final` hand-off: what follows from pressing it. Empty: a standard text. */
  confirmation: z.string().max(1000).default(''),
  /** Shown in place of the button while the hand-off isn't offered, to say why. Empty: nothing is shown until it is offered. */
  notYet: z.string().max(500).default(''),
  ...branching,
  sets: z.array(SetValue).max(200).default([]),
  deliveries: z.array(Delivery).max(200).default([]),
  deliveryPolicy: ListPolicy,
  acknowledgements: z.array(Acknowledgement).max(50).default([]),
  followUps: z.array(FollowUp).max(50).default([]),
  followUpPolicy: ListPolicy,
  /** Whether the records that this one has opened, and that are open still, get their carried values anew. */
  refreshesCarried: z.boolean().default(false),
  /** Null: only people hand on by it. */
  byClock: ByClock.nullable().default(null),
});
export type HandOff = z.infer<typeof HandOff>;

/** Fields or sections that get another treatment at chosen stages while a condition holds. */
export const Adjustment = z.strictObject({
  key: Key,
  name: Name,
  when: ExpressionText,
  /** Stage keys; empty: every stage. */
  stages: z.array(Key).max(500).default([]),
  /** Field keys, or `table.subField`. */
  fields: z.array(z.string().regex(FIELD_PATH_PATTERN, 'shape/field-path')).max(500).default([]),
  sections: z.array(Key).max(200).default([]),
  treatment: Treatment,
  /** A field hidden by this adjustment keeps its value instead of counting as empty. */
  keep: z.boolean().default(false),
});
export type Adjustment = z.infer<typeof Adjustment>;

/** A condition over the record that must hold at a hand-off with full checking. */
export const Check = z.strictObject({
  key: Key,
  name: Name,
  condition: ExpressionText,
  message: z.string().min(1).max(1000),
  /** Stage keys; empty: every stage. */
  stages: z.array(Key).max(500).default([]),
  /** The field beside which the message is shown. */
  field: Key.nullable().default(null),
});
export type Check = z.infer<typeof Check>;
