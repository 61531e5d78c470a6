import { z } from 'zod';
import { ConditionText, ExpressionText } from './field.ts';
import { GivenKey, Key } from './keys.ts';
import { SetValue } from './set-value.ts';

const Name = z.string().min(1).max(200);

/** Text with `{{expressions}}` and passages in it, filled in with values formatted by their type; see `docs/templates.md`. */
export const TemplateText = z.string().max(20_000);
/** A template that becomes one line: a subject, an address, a file name. */
const LineText = z.string().max(2000);

/** `all` that hold, or the `first` that holds. */
export const ListPolicy = z.enum(['all', 'first']).default('all');

/**
 * Who a mail goes to: a role's members, a member, a fixed address, whoever submitted the record; or what an expression
 * yields: addresses, a member by id, a role by key.
 */
export const Recipient = z.discriminatedUnion('kind', [
  z.strictObject({ key: GivenKey, kind: z.literal('role'), role: Key }),
  z.strictObject({ key: GivenKey, kind: z.literal('member'), member: z.string().min(1).max(64) }),
  z.strictObject({ key: GivenKey, kind: z.literal('address'), address: z.string().trim().min(1).max(254) }),
  z.strictObject({ key: GivenKey, kind: z.literal('expression'), expression: ExpressionText }),
  z.strictObject({ key: GivenKey, kind: z.literal('member-of'), expression: ExpressionText }),
  z.strictObject({ key: GivenKey, kind: z.literal('role-of'), expression: ExpressionText }),
  z.strictObject({ key: GivenKey, kind: z.literal('submitter') }),
]);
export type Recipient = z.infer<typeof Recipient>;

/** A property of what is sent: its name, with points for those within another, and the value it has. */
export const Property = z.strictObject({ key: GivenKey, name: z.string().min(1).max(200), value: ExpressionText });
export type Property = z.infer<typeof Property>;

export const Header = z.strictObject({
  key: GivenKey,
  // The token of RFC 9110, section 5.6.2.
  name: z.string().regex(/^[!#$%&'*+\-.^_`|~0-9A-Za-z]{1,100}$/, 'shape/header'),
  value: LineText,
});

/** A value taken from an answer: where in it, and the field it goes to. */
export const Answer = z.strictObject({ key: GivenKey, name: z.string().min(1).max(200), field: Key });
export type Answer = z.infer<typeof Answer>;

/** Whose readers it counts as: what they may read it may hold. */
const readsAs = z.array(Key).max(50).default([]);
/** What it holds; none: every field that may be read. */
const properties = z.array(Property).max(300).default([]);
const delivery = { key: Key, name: Name, when: ConditionText.default(null) };

export const MailDelivery = z.strictObject({
  kind: z.literal('mail'),
  ...delivery,
  /** The outlet by which it goes. */
  outlet: Key.default('mail'),
  to: z.array(Recipient).min(1).max(50),
  cc: z.array(Recipient).max(50).default([]),
  bcc: z.array(Recipient).max(50).default([]),
  /** Where answers go: the first that comes to an address. */
  replyTo: z.array(Recipient).max(5).default([]),
  /** The name it is sent under; the outlet's where it comes to nothing. */
  senderName: LineText.default(''),
  subject: LineText,
  body: TemplateText,
  /** The record as an attachment, with every field shown to the receivers. */
  attach: z.enum(['nothing', 'json', 'csv', 'pdf']).default('nothing'),
  /** Whether the record's own files go along, those shown to the receivers. */
  attachFiles: z.boolean().default(false),
});
export type MailDelivery = z.infer<typeof MailDelivery>;

export const WebDelivery = z.strictObject({
  kind: z.literal('web'),
  ...delivery,
  outlet: Key,
  readsAs,
  method: z.enum(['POST', 'PUT', 'PATCH', 'DELETE']).default('POST'),
  /** What follows the outlet's own address; values in it are percent-encoded. */
  address: LineText.default(''),
  headers: z.array(Header).max(30).default([]),
  encoding: z.enum(['json', 'form']).default('json'),
  properties,
  /** Status codes of a good answer, and ranges of them: `200, 202, 300-303`. */
  expects: z
    .string()
    .regex(/^[1-5]\d\d(-[1-5]\d\d)?( ?, ?[1-5]\d\d(-[1-5]\d\d)?)*$/, 'shape/statuses')
    .max(100)
    .default('200-299'),
  answers: z.array(Answer).max(50).default([]),
});
export type WebDelivery = z.infer<typeof WebDelivery>;

export const FileDelivery = z.strictObject({
  kind: z.literal('file'),
  ...delivery,
  outlet: Key,
  readsAs,
  /** Within the outlet's folder; `/` parts folders. */
  folder: LineText.default(''),
  fileName: LineText,
  /** `csv` adds a row to the file. */
  format: z.enum(['json', 'csv', 'pdf']).default('json'),
  /** What is done where there is a file of that name. Rows are added to it all the same. */
  exists: z.enum(['number', 'replace', 'refuse']).default('number'),
  properties,
  /** What a PDF says. */
  body: TemplateText.default(''),
});
export type FileDelivery = z.infer<typeof FileDelivery>;

/** Something that is sent at a hand-off or on arrival. */
export const Delivery = z.discriminatedUnion('kind', [MailDelivery, WebDelivery, FileDelivery]);
export type Delivery = z.infer<typeof Delivery>;

export const Acknowledgement = z.strictObject({
  key: Key,
  name: z.string().max(200).default(''),
  when: ConditionText.default(null),
  text: TemplateText,
  /** The page that is offered next: one of the workspace's, values in it percent-encoded. Empty: none. */
  next: LineText.default(''),
  /** Whether whoever pressed gets it by mail as well. */
  mailed: z.boolean().default(false),
});
export type Acknowledgement = z.infer<typeof Acknowledgement>;

/** Who has a follow-up where it begins: a role of its workflow, or the member an expression names. */
export const FollowUpAssignee = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('role'), role: Key }),
  z.strictObject({ kind: z.literal('member'), expression: ExpressionText }),
]);
export type FollowUpAssignee = z.infer<typeof FollowUpAssignee>;

/** A record opened in another workflow, once or for each row of a table field. */
export const FollowUp = z.strictObject({
  key: Key,
  name: Name,
  when: ConditionText.default(null),
  workflow: Key,
  handOff: Key,
  perRow: Key.nullable().default(null),
  carried: z.array(SetValue).max(500).default([]),
  /** Whether files and sign-offs may be carried. */
  carriesFiles: z.boolean().default(false),
  /** The reference field on the target that points back. */
  link: Key.nullable().default(null),
  /** Null: whoever may act at the stage it comes to. */
  assignee: FollowUpAssignee.nullable().default(null),
});
export type FollowUp = z.infer<typeof FollowUp>;
