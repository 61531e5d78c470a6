import { Key } from '@ypomet/core';
import { z } from 'zod';
import { DELIVERY_FAULTS } from './messages/codes.ts';
import { ProblemDetail } from './problem.ts';
import { DeliveryStatus, Id, Instant, RichTextDocument } from './schemas.ts';

export const DeliveryFault = z.object({
  code: z.enum(DELIVERY_FAULTS),
  params: z.record(z.string(), z.union([z.string(), z.number(), z.array(z.string())])),
});
export const DeliveryEntry = z.object({
  id: Id,
  recordId: Id,
  recordNumber: z.string().nullable(),
  workflow: Key,
  kind: z.enum(['mail', 'web', 'file']),
  /** Its key in the design; empty for deliveries from before they had keys. */
  delivery: z.string().default(''),
  /** The outlet it goes by. */
  outlet: Key,
  name: z.string(),
  /** Addresses of a mail; none where they are hidden. */
  recipients: z.array(z.string()),
  /** Whether the addresses are told to the readers of what they were made from alone, and the member is none of them. */
  hidesReceivers: z.boolean().default(false),
  subject: z.string(),
  status: DeliveryStatus,
  attempts: z.int(),
  /** Why it waits, or is tried again. */
  fault: DeliveryFault.nullable(),
  createdAt: Instant,
  /** When it is tried next, while it is queued and was tried before. */
  nextAt: Instant.nullable(),
  sentAt: Instant.nullable(),
});
/** An attempt at a delivery. */
export const DeliveryAttempt = z.object({
  at: Instant,
  durationMs: z.int(),
  isSent: z.boolean(),
  fault: DeliveryFault.nullable(),
  /** What the receiver said. */
  answer: z.string(),
  /** Why nothing was taken from the answer. */
  issues: z.array(ProblemDetail),
});
/** What was sent; null for whoever may not read all that is in it. */
export const SentContent = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('mail'),
    to: z.array(z.string()),
    cc: z.array(z.string()),
    bcc: z.array(z.string()),
    replyTo: z.array(z.string()),
    subject: z.string(),
    text: RichTextDocument,
    attachments: z.array(z.string()),
  }),
  z.object({
    kind: z.literal('web'),
    method: z.string(),
    address: z.string(),
    headers: z.array(z.object({ name: z.string(), value: z.string() })),
    mediaType: z.string(),
    body: z.string(),
  }),
  z.object({ kind: z.literal('file'), folder: z.string(), fileName: z.string(), format: z.string(), text: z.string() }),
]);
export const DeliveryDocument = DeliveryEntry.extend({ content: SentContent.nullable(), tried: z.array(DeliveryAttempt) });
export const RetryRequest = z.strictObject({
  /** Those, or all that wait at an outlet. */
  ids: z.array(Id).max(500).optional(),
  outlet: Key.optional(),
});
export const RetryResponse = z.object({ queued: z.int() });
/** Why a delivery isn't sent any more. */
export const PutAwayRequest = z.strictObject({ reason: z.string().trim().min(3).max(500) });
/** What is put right about a delivery that waits, before it is tried again; what is left out stays as it is. */
export const CorrectionRequest = z.strictObject({
  /** Mails: whom it goes to, copies and blind copies aside. */
  to: z.array(z.string().trim().min(3).max(254)).min(1).max(100).optional(),
  /** Files: the name, without a folder. */
  fileName: z.string().trim().min(1).max(200).optional(),
  /** Another outlet of the same kind. */
  outlet: Key.optional(),
});
export type CorrectionRequest = z.infer<typeof CorrectionRequest>;
export const WaitingCount = z.object({
  waiting: z.int(),
  /** Outlets whose deliveries are due and don't move, and for how long; null for the opening of follow-ups. */
  standing: z.array(z.object({ outlet: z.string().nullable(), dueSeconds: z.int() })),
});
export const DeliveryPage = z.object({ entries: z.array(DeliveryEntry), next: z.string().nullable() });

const Host = z.string().regex(/^[A-Za-z0-9.:[\]-]{1,253}$/, 'A host name or an address.');
/** A mail server; an empty host is the one the server is configured with. */
export const MailSettings = z.strictObject({
  kind: z.literal('mail'),
  host: z.union([z.literal(''), Host]).default(''),
  port: z.int().min(1).max(65535).default(587),
  /** `starttls`: encrypted after the greeting, or not at all sent; `tls`: from the start. */
  encryption: z.enum(['none', 'starttls', 'tls']).default('starttls'),
  user: z.string().max(200).default(''),
  from: z.email().default('no-reply@ypomet.invalid'),
  fromName: z.string().max(200).default('Ypomet'),
});
export const WebSettings = z.strictObject({
  kind: z.literal('web'),
  /** What every address begins with. */
  address: z.url({ protocol: /^https?$/ }).max(1000),
  /** `signature`: HTTP message signatures (RFC 9421) with the secret; `bearer`: the secret as a bearer token. */
  authentication: z.enum(['none', 'signature', 'bearer']).default('signature'),
  timeoutSeconds: z.int().min(1).max(60).default(20),
  /** One delivery after another, in the order of their hand-offs: one that is tried again holds up those after it. */
  isOrdered: z.boolean().optional(),
});
export const FileSettings = z.strictObject({
  kind: z.literal('file'),
  /** Within the server's folder of registers. */
  folder: z.string().regex(/^[A-Za-z0-9][A-Za-z0-9_ -]{0,99}$/, 'Letters, digits, spaces and hyphens.'),
});
export const OutletSettings = z.discriminatedUnion('kind', [MailSettings, WebSettings, FileSettings]);
/** Whether an address says where an endpoint is and nothing else: no name or password, no line break, no way up its path. */
const isPlainAddress = (text: string): boolean =>
  /^https?:\/\/[^\s\p{Cc}@\\#/?]+([/?][^\s\p{Cc}\\#]*)?$/iu.test(text) && !/\/(\.|%2e){1,2}([/?]|$)/i.test(text);
/** Names that a Windows share takes for devices (common practice). */
const RESERVED_NAME = /^(con|prn|aux|nul|com\d|lpt\d)$/i;
/** Settings that may be saved. Those that were saved before there were these rules are still read. */
export const NewOutletSettings = OutletSettings.superRefine((settings, context) => {
  const refuse = (path: string, message: string): void => void context.addIssue({ code: 'custom', path: [path], message });
  if (settings.kind === 'web' && !isPlainAddress(settings.address))
    refuse('address', 'An address without name, password, “..” or line breaks.');
  if (settings.kind === 'file' && (RESERVED_NAME.test(settings.folder) || settings.folder.endsWith(' ')))
    refuse('folder', 'A name that every file system takes: not con, nul or com1, and no space at its end.');
});
export type OutletSettings = z.infer<typeof OutletSettings>;
export type OutletSettingsInput = z.input<typeof OutletSettings>;
/** A place that deliveries go to. The secret is written and never read. */
export const OutletDocument = z.object({
  key: Key,
  name: z.string(),
  settings: OutletSettings,
  hasSecret: z.boolean(),
  /** Deliveries that wait for a person, and that are queued. */
  waiting: z.int(),
  queued: z.int(),
  /** Workflows whose newest version sends by it. */
  usedBy: z.array(z.string()),
});
export const OutletRequest = z.strictObject({
  name: z.string().trim().min(1).max(200),
  settings: NewOutletSettings,
  /** Null takes it away; left out, it stays as it is. */
  secret: z.string().min(8).max(500).nullable().optional(),
});
/** What came of trying an outlet. */
export const OutletTrial = z.object({ isWorking: z.boolean(), answer: z.string(), durationMs: z.int() });
export const TrialMailRequest = z.strictObject({ subject: z.string().max(2000), body: RichTextDocument });

/** What the simulated web endpoint took in, and how it answers. */
export const ReceivedRequest = z.object({
  id: z.string(),
  at: Instant,
  method: z.string(),
  path: z.string(),
  headers: z.array(z.object({ name: z.string(), value: z.string() })),
  body: z.string(),
  /** Its key: the same comes with every repeat. */
  delivery: z.string().nullable(),
  isRepeat: z.boolean(),
  status: z.int().nullable(),
  answer: z.string(),
});
export const ReceiverMode = z.enum(['answers', 'slow', 'hangs', 'breaks', 'error', 'no-json', 'twice']);
export const ReceiverPage = z.object({ mode: ReceiverMode, address: z.string(), entries: z.array(ReceivedRequest) });
export const ReceiverRequest = z.strictObject({ mode: ReceiverMode });
export const RegisterFile = z.object({ path: z.string(), bytes: z.int(), changedAt: Instant });

export const MailEntry = z.object({
  id: z.string(),
  from: z.string(),
  to: z.array(z.string()),
  subject: z.string(),
  receivedAt: Instant,
});
export const MailDocument = MailEntry.extend({
  text: z.string(),
  /** The part in HTML, as it was sent; null where there is none. */
  html: z.string().nullable(),
  attachments: z.array(z.object({ name: z.string(), mediaType: z.string(), bytes: z.int() })),
  headers: z.array(z.object({ name: z.string(), value: z.string() })),
});
export const MailPage = z.object({ entries: z.array(MailEntry), next: z.string().nullable() });

export type DeliveryFault = z.infer<typeof DeliveryFault>;
export type DeliveryEntry = z.infer<typeof DeliveryEntry>;
export type DeliveryAttempt = z.infer<typeof DeliveryAttempt>;
export type SentContent = z.infer<typeof SentContent>;
export type DeliveryDocument = z.infer<typeof DeliveryDocument>;
export type OutletDocument = z.infer<typeof OutletDocument>;
export type OutletRequest = z.infer<typeof OutletRequest>;
export type OutletTrial = z.infer<typeof OutletTrial>;
export type ReceivedRequest = z.infer<typeof ReceivedRequest>;
export type ReceiverMode = z.infer<typeof ReceiverMode>;
export type RegisterFile = z.infer<typeof RegisterFile>;
export type MailEntry = z.infer<typeof MailEntry>;
export type MailDocument = z.infer<typeof MailDocument>;
