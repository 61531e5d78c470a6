import {
  CalendarSettings,
  type EditSentence as CoreEditSentence,
  Edit,
  EVENT_TYPES,
  FIELD_PATH_PATTERN,
  Key,
  NEXT_PAGE_PATTERN,
  type RichText,
  Workflow,
} from '@ypomet/core';
import { z } from 'zod';
import { MAX_HANDED_ON, MAX_IMPORTED, MAX_PUBLISHED_ALONG } from './limits.ts';
import { ProblemDetail } from './problem.ts';

export const JsonValue = z.json();
/** Values by field key, as sent and stored: numbers as decimal text. */
const MAX_FIELDS = 1000;
export const Values = z
  .record(z.string().max(64), z.unknown())
  .refine((values) => Object.keys(values).length <= MAX_FIELDS, `At most ${MAX_FIELDS} fields.`) as unknown as z.ZodType<
  Record<string, JsonValue>
>;
type JsonValue = z.infer<typeof JsonValue>;

const TextRun = z.object({
  text: z.string(),
  isStrong: z.literal(true).optional(),
  isEmphasis: z.literal(true).optional(),
  link: z.string().optional(),
});
const RichTextBlock = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('paragraph'), runs: z.array(TextRun) }),
  z.object({ kind: z.literal('heading'), level: z.literal([1, 2, 3]), runs: z.array(TextRun) }),
  z.object({ kind: z.literal('list'), isOrdered: z.boolean(), items: z.array(z.array(TextRun)) }),
  z.object({ kind: z.literal('table'), head: z.array(z.string()), rows: z.array(z.array(z.string())) }),
  z.object({ kind: z.literal('fields'), entries: z.array(z.object({ name: z.string(), text: z.string() })) }),
]);
/** A filled-in text: passages, with emphasis and links. */
export const RichTextDocument = z.array(RichTextBlock).max(2000) as unknown as z.ZodType<RichText>;

export const Id = z.uuid();
export const Instant = z.string();

export const MemberSummary = z.object({ id: Id, name: z.string(), email: z.string(), roles: z.array(z.string()) });
export const WorkspaceDocument = z.object({
  name: z.string(),
  zone: z.string(),
  locale: z.string(),
  /** What working days and hours count in. */
  calendar: CalendarSettings,
  /** Pages that answers may lead to, each with what lies below it. */
  nextPages: z.array(z.string()),
});
export const NextPagesRequest = z.strictObject({ addresses: z.array(z.string().max(500).regex(NEXT_PAGE_PATTERN)).max(50) });
export const Session = z.object({
  member: MemberSummary,
  workspace: WorkspaceDocument,
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
  /** The records that its hand-offs open elsewhere: from which stage, in which workflow, and by which hand-off of that. */
  opens: z.array(z.object({ from: z.string(), workflow: z.string(), handOff: z.string() })),
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
const Accepted = z.array(AcceptedWarning).max(200).default([]);
export const PublishRequest = z
  .strictObject({
    accepted: Accepted,
    notes: z.string().trim().max(5000).default(''),
    /** Other drafts that are published in the same step: those that refer to each other have no other beginning. */
    together: z
      .array(z.strictObject({ key: Key, revision: z.int().min(1).max(1_000_000_000), accepted: Accepted }))
      .max(MAX_PUBLISHED_ALONG)
      .default([]),
  })
  .nullish();
const ToBePublished = z.object({ key: Key, name: z.string(), revision: z.int(), number: z.int() });
/** What publishing a draft takes: it comes first, then those that are published with it. */
export const Publication = z.object({
  workflows: z.array(ToBePublished.extend({ faults: z.array(ProblemDetail), warnings: z.array(ProblemDetail) })),
  /** Workflows that it refers to whose drafts differ from their versions: they can be published with it. */
  others: z.array(ToBePublished),
});
export type Publication = z.infer<typeof Publication>;
/** The workflows that a draft refers to, as it is designed beside them. */
export const Neighbours = z.object({
  /** The workflows that the draft refers to: of each its newest version, or its draft if it was never published. */
  workflows: z.array(Workflow),
  /** Keys of those that were never published. */
  drafts: z.array(z.string()),
  /** What all published workflows open elsewhere; see `openingsOf` in the core. */
  openings: z.array(
    z.object({
      key: z.string(),
      name: z.string(),
      opens: z.array(
        z.object({ key: z.string(), handOff: z.string(), workflow: z.string(), entry: z.string(), atMost: z.number() }),
      ),
    }),
  ),
});
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

export const ColleaguesQuery = z.object({ search: z.string().max(100).default('') });

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
  /** The name of the member who has it; null where a role does. */
  assigneeName: z.string().nullable(),
  /** The stage assigns its records to somebody, and for this one there was nobody. */
  unassigned: z.boolean(),
  /** How many web requests of the record still have to bring answers that its fields expect. */
  awaited: z.int().default(0),
  createdAt: Instant,
  arrivedAt: Instant,
  /** When it is to be done at its stage: a day (over with its end) or an instant. */
  due: z.string().nullable(),
  /** Whether that has passed. */
  isOverdue: z.boolean(),
  revision: z.int(),
});

export const IntakeDocument = z.object({
  workflow: Key,
  stage: Key,
  version: z.int(),
  form: FormDocument,
  record: RecordHeader,
});

/** A record that this one opened, or that opened this one. */
export const RelatedRecord = z.object({
  id: Id,
  number: z.string(),
  workflow: Key,
  workflowName: z.string(),
  stageName: z.string(),
  isDone: z.boolean(),
  /** Whether it waits at its intake because its form of entry refused what it began with. */
  isIncomplete: z.boolean(),
});
export type RelatedRecord = z.infer<typeof RelatedRecord>;

/** What happened to a record, with the names of its stages and hand-offs. `by`: null where nobody did it. */
export const HistoryEntry = z.object({
  id: z.string(),
  at: Instant,
  type: z.enum(EVENT_TYPES),
  by: z.string().nullable(),
  handOff: z.string().nullable(),
  /** Stages; of a record that was opened the number of the one that opened it, of an answer the outlet, of a reminder its name. */
  from: z.string(),
  to: z.string(),
  /** The acknowledgement that was read, for whoever read it. */
  told: RichTextDocument.nullable(),
  /** Why the stage's roles have it although the stage assigns it to somebody. */
  unassigned: z.enum(['nobody', 'unknown-member', 'without-role', 'unknown-role']).nullable(),
  /** Why the clock was refused, by codes. */
  issues: z.array(z.string()).default([]),
  /** Names of fields whose answers were dropped, because an adjustment hid them; those that the reader may know. */
  dropped: z.array(z.string()).default([]),
});

/**
 * How far a delivery is: on its way, sent, waiting for a person, waiting for its receiver to confirm an address that a guest
 * gave, or put away and not sent any more.
 */
export const DeliveryStatus = z.enum(['queued', 'sent', 'waiting', 'unconfirmed', 'put-away']);
export type DeliveryStatus = z.infer<typeof DeliveryStatus>;

export const RecordDocument = z.object({
  record: RecordHeader,
  mayAct: z.boolean(),
  /** Whether the member may take the work, give it back, or hand it over. */
  possession: z.object({ mayTake: z.boolean(), mayGiveBack: z.boolean(), mayHandOver: z.boolean() }),
  form: FormDocument,
  history: z.array(HistoryEntry),
  /** What the form of entry refused of a follow-up that waits for it. */
  issues: z.array(ProblemDetail),
  /** The record that opened this one, and those that it opened, as far as the member may see them. */
  openedBy: RelatedRecord.nullable(),
  opened: z.array(RelatedRecord),
  /** How many further records it opens: that is under way. */
  opening: z.int().default(0),
  /** What was sent, as far as the member may know of it, the latest first; `to`: the addresses that they may know. */
  sent: z.array(
    z.object({
      id: Id,
      kind: z.enum(['mail', 'web', 'file']),
      what: z.string(),
      to: z.array(z.string()),
      status: DeliveryStatus,
      /** Whether the member may put it right while it waits: they may read all that it holds. */
      maySettle: z.boolean().default(false),
      at: Instant,
    }),
  ),
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
/** Rows of a sheet, each with what it enters at the intake. `run` names the import: a row sent twice begins one record. */
export const ImportRequest = z.strictObject({
  handOff: Key,
  run: Id,
  /** Begins nothing, and tells what would come of it. */
  isTrial: z.boolean(),
  /**
   * What becomes of the mails of the new records, and of the records that these open. `all` sends each. `digest` sends one mail
   * to the same receivers with all that they would have got. `none` stores them as put away, so that each record shows which
   * were not sent.
   */
  mails: z.enum(['all', 'digest', 'none']).default('all'),
  /** Paths of member and reference fields, or columns, in which the rows have names, mail addresses or numbers instead of ids. */
  byName: z.array(z.string().max(201)).max(100).default([]),
  rows: z
    .array(z.strictObject({ line: z.int().min(1).max(10_000_000), values: Values }))
    .min(1)
    .max(MAX_IMPORTED),
});
export const ImportedRow = z.object({
  line: z.int(),
  /** Whether it begins; where it doesn't, `issues` say why. */
  isBegun: z.boolean(),
  /** Of a record that was begun: its number. */
  number: z.string().nullable(),
  stageName: z.string().nullable(),
  /** Of a trial: what would be sent, and how many records opened elsewhere. */
  wouldSend: z.int(),
  wouldOpen: z.int(),
  issues: z.array(ProblemDetail),
});
export type ImportedRow = z.infer<typeof ImportedRow>;
export const ImportAnswer = z.object({ rows: z.array(ImportedRow) });

export const OfferedRequest = z.strictObject({ records: z.array(Id).min(1).max(MAX_HANDED_ON) });
/** A record with the hand-offs that the member may press; none where it is no longer theirs to hand on. */
export const OfferedHandOffs = z.object({
  id: Id,
  number: z.string(),
  revision: z.int(),
  handOffs: z.array(z.object({ key: Key, name: z.string() })),
});
export type OfferedHandOffs = z.infer<typeof OfferedHandOffs>;
/** `run` names what is done: a record sent twice in it is handed on once. */
export const HandOnManyRequest = z.strictObject({
  handOff: Key,
  run: Id,
  /** Hands nothing on, and tells what would come of it. */
  isTrial: z.boolean(),
  /** Entered for each of them, in place of what it holds. */
  values: Values.default({}),
  records: z
    .array(z.strictObject({ id: Id, revision: z.int().min(0).max(1_000_000_000) }))
    .min(1)
    .max(MAX_HANDED_ON),
});
export const HandedOnRow = z.object({
  id: Id,
  /** Whether it is handed on; where it isn't, `issues` say why. */
  isHandedOn: z.boolean(),
  stageName: z.string().nullable(),
  /** With which it can be taken back; null where it can’t be. */
  revision: z.int().nullable(),
  /** Of a trial: what would be sent, and how many records opened elsewhere. */
  wouldSend: z.int(),
  wouldOpen: z.int(),
  issues: z.array(ProblemDetail),
});
export type HandedOnRow = z.infer<typeof HandedOnRow>;
/** Hand-offs to be taken back: each record with the revision that its hand-off came to. */
export const TakeBackManyRequest = z.strictObject({
  records: z
    .array(z.strictObject({ id: Id, revision: z.int().min(1).max(2_000_000_000) }))
    .min(1)
    .max(MAX_HANDED_ON),
});
export const TakenBackRow = z.object({ id: Id, isTakenBack: z.boolean(), issues: z.array(ProblemDetail) });
export type TakenBackRow = z.infer<typeof TakenBackRow>;
export const HandOnManyAnswer = z.object({ rows: z.array(HandedOnRow) });

export const HandOffResponse = z.object({
  record: RecordHeader,
  acknowledgement: RichTextDocument.nullable(),
  /** The page that is offered next. */
  next: z.string().nullable().default(null),
  /** The records it opened that whoever pressed may see. */
  opened: z.array(RelatedRecord).default([]),
  /** How many further records it opens: that is under way. */
  opening: z.int().default(0),
});

export const PossessionRequest = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('take') }),
  z.strictObject({ kind: z.literal('give-back') }),
  z.strictObject({ kind: z.literal('hand-over'), to: z.uuid() }),
]);
/** Which changes are told: of a record, of the records of a register, or, without either, of what the member may see. */
export const WatchedQuery = z.object({ record: Id.optional(), workflow: Key.optional() });
export const Health = z.object({
  /** `standing`: requests are served, but some queued jobs have stopped moving. `full`: requests are served, but the disk is full. */
  status: z.enum(['ok', 'standing', 'full', 'unready']),
  version: z.string(),
  database: z.boolean(),
  queue: z.boolean(),
  /** Whether the clock of the process is the database's. */
  clock: z.boolean(),
  /** Whether the disk has room. */
  room: z.boolean(),
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
export type DraftEditEntry = z.infer<typeof DraftEditEntry>;
export type DraftEditPage = z.infer<typeof DraftEditPage>;
export type Values = z.infer<typeof Values>;
export type ChoiceEntry = z.infer<typeof ChoiceEntry>;
export type FileEntry = z.infer<typeof FileEntry>;
