import { type EditSentence as CoreEditSentence, Edit, FIELD_PATH_PATTERN, Key, Workflow } from '@ypomet/core';
import { z } from 'zod';
import { DELIVERY_FAULTS } from './messages/codes.ts';

export const JsonValue = z.json();
/** Values by field key, as sent and stored: numbers as decimal text. */
const MAX_FIELDS = 1000;
export const Values = z
  .record(z.string().max(64), z.unknown())
  .refine((values) => Object.keys(values).length <= MAX_FIELDS, `At most ${MAX_FIELDS} fields.`) as unknown as z.ZodType<
  Record<string, JsonValue>
>;
type JsonValue = z.infer<typeof JsonValue>;

export const Id = z.uuid();
export const Instant = z.string();

export const MemberSummary = z.object({ id: Id, name: z.string(), email: z.string(), roles: z.array(z.string()) });
export const Session = z.object({
  member: MemberSummary,
  workspace: z.object({ name: z.string(), zone: z.string(), locale: z.string() }),
});
export const Credentials = z.strictObject({ email: z.string().min(3).max(254), password: z.string().min(1).max(200) });
/** Shown on the sign-in page while the demo flag is on. */
export const DemoMember = z.object({ name: z.string(), email: z.string(), password: z.string(), does: z.string() });

export const WorkflowSummary = z.object({
  key: Key,
  name: z.string(),
  description: z.string(),
  draftRevision: z.int(),
  draftChangedAt: Instant,
  /** Whether the draft differs from the newest version. */
  draftDiffers: z.boolean(),
  publishedVersion: z.int().nullable(),
  fields: z.int(),
  recordsOpen: z.int(),
  /** Its little map: tracks and stages in order, with the records that wait at each. */
  tracks: z.array(z.object({ key: z.string(), name: z.string() })),
  stages: z.array(
    z.object({ key: z.string(), name: z.string(), kind: z.string(), tracks: z.array(z.string()), waiting: z.int() }),
  ),
  /** Who answers for it, and who changed its draft last. */
  owner: z.object({ id: Id, name: z.string() }).nullable(),
  changedBy: z.string().nullable(),
  /** Who is at its draft now. */
  here: z.array(z.string()),
  archivedAt: Instant.nullable(),
});
/** What is left out stays as it is. */
export const WorkflowChangeRequest = z.strictObject({ owner: Id.nullable().optional(), isArchived: z.boolean().optional() });
export const EarlierDraft = z.object({ definition: Workflow, revision: z.int() });
/** Where a page of the designer is: the path of the part that is selected, if one is. */
export const PlaceRequest = z.strictObject({ tab: Id, part: z.string().max(500).nullable() });
/** An event of {@link ROUTES.watchDraft}; `tab` tells a member's pages apart. */
export const DraftEvent = z.discriminatedUnion('type', [
  z.object({ type: z.literal('changed'), revision: z.int(), by: z.string() }),
  z.object({ type: z.literal('here'), tab: Id, name: z.string(), part: z.string().nullable() }),
  z.object({ type: z.literal('gone'), tab: Id }),
]);
export type DraftEvent = z.infer<typeof DraftEvent>;

export const DraftDocument = z.object({
  definition: Workflow,
  revision: z.int(),
  publishedVersion: z.int().nullable(),
  differs: z.boolean(),
});
/** Edits with the ids by which a repeat of each is known. */
export const EditsRequest = z.strictObject({
  edits: z
    .array(z.strictObject({ id: z.uuid(), edit: Edit }))
    .min(1)
    .max(200),
});
export const EditsResponse = z.object({ revision: z.int(), differs: z.boolean() });
/** What an edit did: a code of the core's `messages/` and what its sentence is filled with. */
const EditSentence = z.object({
  code: z.string(),
  params: z.record(z.string(), z.unknown()),
}) as unknown as z.ZodType<CoreEditSentence>;
export const DraftEditEntry = z.object({
  /** Null for edits of before edits had ids. */
  id: z.uuid().nullable(),
  /** The draft's revision that it led to. */
  revision: z.int(),
  by: z.string().nullable(),
  at: Instant,
  sentence: EditSentence,
  /** The keys that it gave to parts, so that others can follow. */
  renames: z.array(z.object({ part: z.string(), key: z.string() })),
});
export const DraftEditPage = z.object({ entries: z.array(DraftEditEntry), next: z.string().nullable() });
/** A warning of a design that somebody publishes all the same, and why. */
export const AcceptedWarning = z.strictObject({
  code: z.string().max(100),
  path: z.string().max(500),
  reason: z.string().trim().min(3).max(1000),
});
export type AcceptedWarning = z.infer<typeof AcceptedWarning>;
export const PublishRequest = z
  .strictObject({ accepted: z.array(AcceptedWarning).max(200).default([]), notes: z.string().trim().max(5000).default('') })
  .nullish();
export const VersionSummary = z.object({
  number: z.int(),
  publishedAt: Instant,
  publishedBy: z.string(),
  recordsOpen: z.int(),
  /** What whoever published it says of it. */
  notes: z.string(),
});
export const VersionDocument = VersionSummary.extend({ definition: Workflow });

/** A form as one participant may see it; see `projectForm` in the core. */
export const FormDocument = z.object({
  definition: Workflow,
  values: Values,
  askAgainFor: z.array(z.string()),
  withheld: z.array(z.string()),
  brokenSignOffs: z.array(z.string()),
  /** Names of the members and numbers of the records that the values name, by id. */
  names: z.record(z.string(), z.string()),
});

export const FileName = z
  .string()
  .trim()
  .min(1)
  .max(200)
  .regex(/^[^\p{Cc}/\\]+$/u, 'A file name without folders and control characters.');
/** A file as a field's value names it. */
export const FileEntry = z.object({ name: z.string(), mediaType: z.string(), bytes: z.int(), sha256: z.string() });
/** `field`, or `table.subField`. */
export const ChoicesQuery = z.object({
  field: z.string().regex(FIELD_PATH_PATTERN),
  search: z.string().max(100).default(''),
});
export const ChoiceEntry = z.object({ id: z.string(), name: z.string(), note: z.string() });

export const IntakeSummary = z.object({ workflow: Key, stage: Key, name: z.string(), description: z.string() });
export const RecordHeader = z.object({
  id: Id,
  number: z.string().nullable(),
  workflow: Key,
  workflowName: z.string(),
  version: z.int(),
  stage: Key,
  stageName: z.string(),
  stageKind: z.enum(['intake', 'work', 'junction', 'end']),
  track: z.string().nullable(),
  submittedBy: z.string().nullable(),
  assignee: z
    .union([z.object({ kind: z.literal('role'), role: z.string() }), z.object({ kind: z.literal('member'), member: z.string() })])
    .nullable(),
  /** The stage assigns its records to somebody, and for this one there was nobody. */
  unassigned: z.boolean(),
  createdAt: Instant,
  arrivedAt: Instant,
  revision: z.int(),
});

export const IntakeDocument = z.object({
  workflow: Key,
  stage: Key,
  version: z.int(),
  form: FormDocument,
  record: RecordHeader,
});

/** What happened to a record, with the names of its stages and hand-offs. `by`: null where nobody did it. */
export const HistoryEntry = z.object({
  id: z.string(),
  at: Instant,
  type: z.enum(['handed-on', 'passed-junction']),
  by: z.string().nullable(),
  handOff: z.string().nullable(),
  from: z.string(),
  to: z.string(),
  /** Why the stage's roles have it although the stage assigns it to somebody. */
  unassigned: z.enum(['nobody', 'unknown-member', 'without-role', 'unknown-role']).nullable(),
});

export const RecordDocument = z.object({
  record: RecordHeader,
  mayAct: z.boolean(),
  form: FormDocument,
  history: z.array(HistoryEntry),
  /** Where it has been and is, in the workflow's order, and the stage that certainly comes next; no other stages. */
  route: z.object({
    tracks: z.array(z.object({ key: z.string(), name: z.string() })),
    stages: z.array(z.object({ key: z.string(), name: z.string(), kind: z.string(), tracks: z.array(z.string()) })),
    path: z.array(z.string()),
    next: z.string().nullable(),
  }),
});

export const HandOffRequest = z.strictObject({ handOff: Key, values: Values.default({}) });
export const BeginRequest = z.strictObject({ stage: Key, handOff: Key, values: Values.default({}) });
export const FormRequest = z.strictObject({ values: Values.default({}) });
export const HandOffResponse = z.object({
  record: RecordHeader,
  acknowledgement: z.string().nullable(),
});

export const DeskEntry = z.object({ record: RecordHeader, submitter: z.string().nullable() });
export const DeskPage = z.object({ entries: z.array(DeskEntry), next: z.string().nullable() });

export const DeliveryFault = z.object({
  code: z.enum(DELIVERY_FAULTS),
  params: z.record(z.string(), z.union([z.string(), z.number(), z.array(z.string())])),
});
export const DeliveryEntry = z.object({
  id: Id,
  recordId: Id,
  recordNumber: z.string().nullable(),
  workflow: Key,
  kind: z.literal('mail'),
  name: z.string(),
  recipients: z.array(z.string()),
  subject: z.string(),
  status: z.enum(['queued', 'sent', 'waiting']),
  attempts: z.int(),
  /** Why it waits, or is tried again. */
  fault: DeliveryFault.nullable(),
  createdAt: Instant,
  sentAt: Instant.nullable(),
});
export const DeliveryPage = z.object({ entries: z.array(DeliveryEntry), next: z.string().nullable() });

export const MailEntry = z.object({
  id: z.string(),
  from: z.string(),
  to: z.array(z.string()),
  subject: z.string(),
  receivedAt: Instant,
});
export const MailDocument = MailEntry.extend({
  text: z.string(),
  headers: z.array(z.object({ name: z.string(), value: z.string() })),
});
export const MailPage = z.object({ entries: z.array(MailEntry), next: z.string().nullable() });

export const Health = z.object({
  status: z.enum(['ok', 'unready']),
  version: z.string(),
  database: z.boolean(),
  queue: z.boolean(),
});

export type Session = z.infer<typeof Session>;
export type DemoMember = z.infer<typeof DemoMember>;
export type WorkflowSummary = z.infer<typeof WorkflowSummary>;
export type DraftDocument = z.infer<typeof DraftDocument>;
export type VersionSummary = z.infer<typeof VersionSummary>;
export type FormDocument = z.infer<typeof FormDocument>;
export type IntakeDocument = z.infer<typeof IntakeDocument>;
export type RecordHeader = z.infer<typeof RecordHeader>;
export type RecordDocument = z.infer<typeof RecordDocument>;
export type HistoryEntry = z.infer<typeof HistoryEntry>;
export type HandOffResponse = z.infer<typeof HandOffResponse>;
export type DeskEntry = z.infer<typeof DeskEntry>;
export type DeliveryFault = z.infer<typeof DeliveryFault>;
export type DraftEditEntry = z.infer<typeof DraftEditEntry>;
export type DraftEditPage = z.infer<typeof DraftEditPage>;
export type DeliveryEntry = z.infer<typeof DeliveryEntry>;
export type MailEntry = z.infer<typeof MailEntry>;
export type MailDocument = z.infer<typeof MailDocument>;
export type Values = z.infer<typeof Values>;
export type ChoiceEntry = z.infer<typeof ChoiceEntry>;
export type FileEntry = z.infer<typeof FileEntry>;
