import { z } from 'zod';
import { ConditionText, ExpressionText, Treatment } from './field.ts';
import { FIELD_PATH_PATTERN } from './field-path.ts';
import { GivenKey, Key } from './keys.ts';

const Name = z.string().min(1).max(200);
/** Words for colleagues who design; no participant sees them. */
export const Notes = z.string().max(5000).default('');

/** Text with `{{expressions}}` in it, filled in with values formatted by their type. */
export const TemplateText = z.string().max(20_000);

/** `field := expression`. The key names it within its list. */
export const SetValue = z.strictObject({ key: GivenKey, field: Key, value: ExpressionText });
export type SetValue = z.infer<typeof SetValue>;

/** Where a branch leads, and the track the record is on from there (null: unchanged). */
const destination = { to: Key, track: Key.nullable().default(null) };
export const Destination = z.strictObject(destination);
export type Destination = z.infer<typeof Destination>;

export const Branch = z.strictObject({ key: Key, name: Name, when: ExpressionText, ...destination });
export type Branch = z.infer<typeof Branch>;

/** Who a mail goes to: a role's members, an address an expression yields, or whoever submitted the record. */
export const Recipient = z.discriminatedUnion('kind', [
  z.strictObject({ key: GivenKey, kind: z.literal('role'), role: Key }),
  z.strictObject({ key: GivenKey, kind: z.literal('expression'), expression: ExpressionText }),
  z.strictObject({ key: GivenKey, kind: z.literal('submitter') }),
]);
export type Recipient = z.infer<typeof Recipient>;

export const Delivery = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('mail'),
    key: Key,
    name: Name,
    when: ConditionText.default(null),
    to: z.array(Recipient).min(1).max(50),
    subject: TemplateText,
    body: TemplateText,
  }),
]);
export type Delivery = z.infer<typeof Delivery>;

export const Acknowledgement = z.strictObject({ key: Key, when: ConditionText.default(null), text: TemplateText });
export type Acknowledgement = z.infer<typeof Acknowledgement>;

/** A record opened in another workflow, once or for each row of a table field. */
export const FollowUp = z.strictObject({
  key: Key,
  name: Name,
  when: ConditionText.default(null),
  workflow: Key,
  handOff: Key,
  perRow: Key.nullable().default(null),
  carried: z.array(SetValue).max(500).default([]),
  /** The reference field on the target that points back. */
  link: Key.nullable().default(null),
});
export type FollowUp = z.infer<typeof FollowUp>;

/** `all` that hold, or the `first` that holds. */
const DeliveryPolicy = z.enum(['all', 'first']).default('all');

const branching = {
  policy: z.enum(['first', 'single']).default('first'),
  branches: z.array(Branch).max(1000).default([]),
  otherwise: Destination.nullable().default(null),
};

/**
 * Who has the work at a stage: a role, the member that an expression names (a field, a decision table), or the role that
 * one names. Null where the expression is: whoever may act at the stage.
 */
export const Assignment = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('role'), role: Key }),
  z.strictObject({ kind: z.literal('member'), expression: ExpressionText }),
  z.strictObject({ kind: z.literal('role-of'), expression: ExpressionText }),
]);
export type Assignment = z.infer<typeof Assignment>;

/** What happens when a record arrives at a stage. */
export const Arrival = z.strictObject({
  sets: z.array(SetValue).max(200).default([]),
  deliveries: z.array(Delivery).max(200).default([]),
  deliveryPolicy: DeliveryPolicy,
});

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
  ...branching,
  sets: z.array(SetValue).max(200).default([]),
  deliveries: z.array(Delivery).max(200).default([]),
  deliveryPolicy: DeliveryPolicy,
  acknowledgements: z.array(Acknowledgement).max(50).default([]),
  followUps: z.array(FollowUp).max(50).default([]),
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
