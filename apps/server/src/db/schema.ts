import type {
  AcceptedWarning,
  DeliveryFault,
  DeskSettings,
  OutletSettings,
  PublicLinkSettings,
  RegisterSettings,
  UnfinishedContent,
} from '@ypomet/contract';
import type {
  Actor,
  Assignee,
  CalendarSettings,
  DeliveryConsequence,
  Edit,
  EditSentence,
  FollowUpConsequence,
  Json,
  RecordEvent,
  RichText,
  Workflow,
  WorkflowRecord,
} from '@ypomet/core';
import { sql } from 'drizzle-orm';
import {
  bigint,
  bigserial,
  boolean,
  customType,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  timestamp,
  uniqueIndex,
  uuid,
  varchar,
} from 'drizzle-orm/pg-core';

/** What is sent, with the addresses that roles and members stood for when it was queued. */
/**
 * What becomes of the mails of records that are begun together: they are put away, which says by whom, or sent as one to the same
 * receivers. `run`: a UUID that all mails of the import share.
 */
export type MailHandling = { readonly kind: 'put-away'; readonly by: string } | { readonly kind: 'digest'; readonly run: string };

export type StoredContent = DeliveryConsequence & {
  readonly addresses?: {
    readonly to: readonly string[];
    readonly cc: readonly string[];
    readonly bcc: readonly string[];
    readonly replyTo: readonly string[];
  };
  /** Addresses, in small letters, of receivers who haven't confirmed them: the mail waits for them. */
  readonly unconfirmed?: readonly string[];
  /** Addresses whose mail server took the mail while others refused it: a further attempt leaves them out. */
  readonly taken?: readonly string[];
};

const instant = (name: string) => timestamp(name, { withTimezone: true, mode: 'string', precision: 3 });
/** Keeps the order of keys, which exported definitions depend on; jsonb would not. */
const orderedJson = <T>(name: string) =>
  customType<{ data: T; driverData: string }>({
    dataType: () => 'json',
    toDriver: (value) => JSON.stringify(value),
    fromDriver: (value) => (typeof value === 'string' ? JSON.parse(value) : value) as T,
  })(name);

/** One row: the workspace's own settings. */
export const workspace = pgTable('workspace', {
  id: integer('id').primaryKey().default(1),
  name: text('name').notNull(),
  zone: text('zone').notNull(),
  locale: text('locale').notNull(),
  /** What working days and hours count in; null for the ordinary ones. */
  calendar: jsonb('calendar').$type<CalendarSettings>(),
  /** Pages that answers may lead to. */
  nextPages: text('next_pages').array().notNull().default(sql`'{}'`),
  /** Whether the demo's records are all there: seeding that was cut off goes on where it stopped. */
  isSeeded: boolean('is_seeded').notNull().default(false),
});

export const members = pgTable(
  'members',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    name: text('name').notNull(),
    email: text('email').notNull(),
    passwordHash: text('password_hash').notNull(),
    roles: text('roles').array().notNull().default(sql`'{}'`),
    /** Somebody without an account, who submits by a public link: no password, no roles, in no list of members. */
    isGuest: boolean('is_guest').notNull().default(false),
    createdAt: instant('created_at').notNull().defaultNow(),
  },
  (table) => [uniqueIndex('members_email').on(sql`lower(${table.email})`).where(sql`not is_guest`)],
);

export const sessions = pgTable(
  'sessions',
  {
    id: text('id').primaryKey(),
    data: jsonb('data').notNull(),
    expiresAt: instant('expires_at').notNull(),
  },
  (table) => [index('sessions_expiry').on(table.expiresAt)],
);

export const workflows = pgTable('workflows', {
  key: text('key').primaryKey(),
  definition: orderedJson<Workflow>('definition').notNull(),
  revision: integer('revision').notNull().default(1),
  changedAt: instant('changed_at').notNull().defaultNow(),
  /** The newest version, and the draft revision it was made from. */
  publishedVersion: integer('published_version'),
  publishedRevision: integer('published_revision'),
  nextNumber: integer('next_number').notNull().default(1),
  /** The analyst who answers for it; null when nobody is named. */
  owner: uuid('owner').references(() => members.id),
  /** When whoever answers for it was last told by mail that deliveries wait. */
  toldWaitingAt: instant('told_waiting_at'),
  /** Since when it is put away: records under way go on, none begins. */
  archivedAt: instant('archived_at'),
  createdAt: instant('created_at').notNull().defaultNow(),
});

/** Every change to a draft, with the edit that undoes it. */
export const draftEdits = pgTable(
  'draft_edits',
  {
    workflow: text('workflow')
      .notNull()
      .references(() => workflows.key),
    revision: integer('revision').notNull(),
    position: integer('position').notNull(),
    /** The id the page gave it, by which a repeat is known; null for edits of before they had one. */
    id: uuid('id'),
    edit: jsonb('edit').$type<Edit>().notNull(),
    inverse: jsonb('inverse').$type<Edit>().notNull(),
    sentence: jsonb('sentence').$type<EditSentence>().notNull(),
    by: uuid('by').references(() => members.id),
    at: instant('at').notNull().defaultNow(),
  },
  (table) => [
    primaryKey({ columns: [table.workflow, table.revision, table.position] }),
    uniqueIndex('draft_edits_id').on(table.workflow, table.id),
  ],
);

export const versions = pgTable(
  'versions',
  {
    workflow: text('workflow')
      .notNull()
      .references(() => workflows.key),
    number: integer('number').notNull(),
    definition: orderedJson<Workflow>('definition').notNull(),
    publishedBy: uuid('published_by').references(() => members.id),
    publishedAt: instant('published_at').notNull().defaultNow(),
    /** The versions of the workflows it refers to: every process decides by these, for ever. */
    refersTo: jsonb('refers_to').$type<Record<string, number>>().notNull().default({}),
    /** What whoever published it says of it. */
    notes: text('notes').notNull().default(''),
    /** The warnings it was published with, each with the reason given. */
    accepted: jsonb('accepted').$type<readonly AcceptedWarning[]>().notNull().default([]),
  },
  (table) => [primaryKey({ columns: [table.workflow, table.number] })],
);

export const records = pgTable(
  'records',
  {
    id: uuid('id').primaryKey(),
    workflow: text('workflow')
      .notNull()
      .references(() => workflows.key),
    version: integer('version').notNull(),
    number: text('number').notNull(),
    stage: text('stage').notNull(),
    stageKind: text('stage_kind').notNull(),
    /** The intake stage at which it began. */
    intake: text('intake'),
    track: text('track'),
    /** Roles whose members have the work; empty when it is a member's or the submitter's. */
    waitingRoles: text('waiting_roles').array().notNull().default(sql`'{}'`),
    waitingMember: uuid('waiting_member'),
    assignee: jsonb('assignee').$type<Assignee>(),
    submittedBy: uuid('submitted_by').references(() => members.id),
    values: jsonb('values').$type<Record<string, Json>>().notNull(),
    /** The record that opened it as a follow-up, the follow-up and the row it was opened for, and how deep in such a chain it is. */
    openedBy: uuid('opened_by'),
    followUp: text('follow_up'),
    openedRow: text('opened_row'),
    depth: integer('depth').notNull().default(0),
    /** Why it waits at its intake: what its form of entry refused. Null once it has gone on. */
    issues: jsonb('issues').$type<readonly Json[]>(),
    /** Fields whose default is spent. */
    defaulted: text('defaulted').array().notNull().default(sql`'{}'`),
    revision: integer('revision').notNull().default(1),
    createdAt: instant('created_at').notNull(),
    arrivedAt: instant('arrived_at').notNull(),
    /** When it is to be done at its stage: a day or an instant as the core has it, and the instant it is over. */
    due: text('due'),
    dueAt: instant('due_at'),
    /** Reminders that were sent in this stay; hand-offs by the clock that were refused since it last changed. */
    reminded: text('reminded').array().notNull().default(sql`'{}'`),
    refused: text('refused').array().notNull().default(sql`'{}'`),
    refusedAt: instant('refused_at'),
    /** When the clock next has something to do; null for never. */
    clockAt: instant('clock_at'),
  },
  (table) => [
    index('records_due').on(sql`coalesce(due_at, '9999-12-31T00:00:00Z')`, table.id).where(sql`stage_kind <> 'end'`),
    index('records_clock').on(table.clockAt).where(sql`clock_at is not null`),
    index('records_refused').on(table.id).where(sql`cardinality(refused) > 0`),
    uniqueIndex('records_number').on(table.workflow, table.number),
    index('records_arrival').on(table.arrivedAt, table.id).where(sql`stage_kind <> 'end'`),
    index('records_waiting_roles').using('gin', table.waitingRoles).where(sql`stage_kind <> 'end'`),
    index('records_waiting_member').on(table.waitingMember, table.arrivedAt),
    index('records_submitter').on(table.submittedBy, table.createdAt),
    index('records_opened_by').on(table.openedBy, table.createdAt).where(sql`opened_by is not null`),
    index('records_register').on(table.workflow, table.createdAt, table.id),
    index('records_register_due').on(table.workflow, table.dueAt, table.id).where(sql`due_at is not null`),
    index('records_register_arrival').on(table.workflow, table.arrivedAt, table.id),
    index('records_stage').on(table.workflow, table.stage, table.createdAt, table.id),
    index('records_version').on(table.workflow, table.version).where(sql`stage_kind <> 'end'`),
  ],
);

/** What somebody narrowed a register to, and how they laid it out, under a name. */
export const registerViews = pgTable(
  'register_views',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    workflow: text('workflow')
      .notNull()
      .references(() => workflows.key),
    owner: uuid('owner')
      .notNull()
      .references(() => members.id),
    name: text('name').notNull(),
    /** Whether all who may see the register have it. */
    isShared: boolean('is_shared').notNull().default(false),
    settings: jsonb('settings').$type<RegisterSettings>().notNull(),
    changedAt: instant('changed_at').notNull().defaultNow(),
  },
  (table) => [index('register_views_workflow').on(table.workflow, table.name), index('register_views_owner').on(table.owner)],
);

/** What somebody narrowed their desk to, under a name. */
export const deskViews = pgTable(
  'desk_views',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    owner: uuid('owner')
      .notNull()
      .references(() => members.id),
    name: text('name').notNull(),
    /** Whether all who hold one of the owner's roles have it. */
    isShared: boolean('is_shared').notNull().default(false),
    settings: jsonb('settings').$type<DeskSettings>().notNull(),
    changedAt: instant('changed_at').notNull().defaultNow(),
  },
  (table) => [index('desk_views_owner').on(table.owner)],
);

export const recordEvents = pgTable(
  'record_events',
  {
    id: bigserial('id', { mode: 'bigint' }).primaryKey(),
    record: uuid('record')
      .notNull()
      .references(() => records.id),
    revision: integer('revision').notNull(),
    event: jsonb('event').$type<RecordEvent>().notNull(),
    /** The acknowledgement that whoever did it read. */
    told: jsonb('told').$type<RichText>(),
    by: uuid('by').references(() => members.id),
    at: instant('at').notNull(),
  },
  (table) => [index('record_events_record').on(table.record, table.id)],
);

/**
 * Follow-ups that are still to be opened: of a hand-off that opens more records than one request does, the rest is opened by
 * the queue. A row is deleted in the transaction that opens its record.
 */
export const pendingFollowUps = pgTable(
  'pending_follow_ups',
  {
    id: bigserial('id', { mode: 'bigint' }).primaryKey(),
    /** The record that opens it. */
    source: uuid('source')
      .notNull()
      .references(() => records.id),
    consequence: jsonb('consequence').$type<FollowUpConsequence>().notNull(),
    /** How deep the record that is opened will be in its chain of openings. */
    depth: integer('depth').notNull(),
    /** Whoever handed the source on. */
    actor: jsonb('actor').$type<Actor>().notNull(),
    /** What becomes of the mails of the record that is opened; null: they are sent. */
    mails: jsonb('mails').$type<MailHandling>(),
    createdAt: instant('created_at').notNull().defaultNow(),
  },
  (table) => [index('pending_follow_ups_source').on(table.source, table.id)],
);

export const deliveries = pgTable(
  'deliveries',
  {
    /** Also the key by which a receiver can drop repeats. */
    id: uuid('id').primaryKey(),
    record: uuid('record')
      .notNull()
      .references(() => records.id),
    /** Counts all deliveries in the order in which their hand-offs were stored. */
    sequence: bigserial('sequence', { mode: 'bigint' }).notNull(),
    kind: text('kind').notNull(),
    /** The delivery's key in its workflow, and the outlet it goes by. */
    delivery: text('delivery').notNull().default(''),
    outlet: text('outlet').notNull().default('mail'),
    name: text('name').notNull(),
    recipients: text('recipients').array().notNull(),
    /** What the log tells of it: a subject, a method with an address, a path. */
    subject: text('subject').notNull(),
    /** The text of mails of before deliveries had contents. */
    body: text('body').notNull().default(''),
    /** What is sent, as the core decided it. */
    content: jsonb('content').$type<StoredContent>(),
    status: text('status').notNull().default('queued'),
    attempts: integer('attempts').notNull().default(0),
    /** Why it waits, or is tried again. */
    fault: jsonb('fault').$type<DeliveryFault>(),
    createdAt: instant('created_at').notNull(),
    /** When it is tried next, while it is queued. */
    nextAt: instant('next_at'),
    sentAt: instant('sent_at'),
    /** Id of the import run that this mail came from. Mails of one run to the same receivers are sent as one mail. Null for all other deliveries. */
    digest: uuid('digest'),
  },
  (table) => [
    index('deliveries_digest').on(table.digest, table.sequence).where(sql`status = 'queued' and digest is not null`),
    index('deliveries_newest').on(table.createdAt, table.id),
    index('deliveries_record').on(table.record),
    index('deliveries_in_order').on(table.outlet, table.sequence).where(sql`status = 'queued'`),
    index('deliveries_open').on(table.record).where(sql`status in ('queued', 'waiting')`),
    index('deliveries_unsent').on(table.status, table.outlet, table.createdAt).where(sql`status <> 'sent'`),
    index('deliveries_outlet').on(table.outlet, table.createdAt, table.id),
  ],
);

/** Each attempt at a delivery, with what came of it. */
export const deliveryAttempts = pgTable(
  'delivery_attempts',
  {
    id: bigserial('id', { mode: 'bigint' }).primaryKey(),
    delivery: uuid('delivery')
      .notNull()
      .references(() => deliveries.id),
    at: instant('at').notNull().defaultNow(),
    durationMs: integer('duration_ms').notNull(),
    isSent: boolean('is_sent').notNull(),
    fault: jsonb('fault').$type<DeliveryFault>(),
    /** What the receiver said: a mail server's line, a web endpoint's status and the beginning of its answer, a file's path. */
    answer: text('answer').notNull().default(''),
    /** Why nothing was taken from a web endpoint's answer. */
    issues: jsonb('issues').$type<readonly Json[]>(),
  },
  (table) => [index('delivery_attempts_delivery').on(table.delivery, table.id)],
);

/** Places that deliveries go to, set up once for the workspace. */
export const outlets = pgTable('outlets', {
  key: text('key').primaryKey(),
  kind: text('kind').notNull().$type<'mail' | 'web' | 'file'>(),
  name: text('name').notNull(),
  settings: jsonb('settings').$type<OutletSettings>().notNull(),
  /** Encrypted: a password, or a secret to sign with. */
  secret: text('secret'),
  createdAt: instant('created_at').notNull().defaultNow(),
  changedAt: instant('changed_at').notNull().defaultNow(),
});

/** When the work of a stage last fell to a member: for assignments in turn. */
export const assignments = pgTable(
  'assignments',
  {
    workflow: text('workflow').notNull(),
    stage: text('stage').notNull(),
    member: uuid('member').notNull(),
    at: timestamp('at', { withTimezone: true, mode: 'string' }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.workflow, table.stage, table.member] })],
);

/** Files that members handed over. What a field says of a file is taken from here; the contents lie beside the database. */
export const files = pgTable(
  'files',
  {
    sha256: text('sha256').notNull(),
    member: uuid('member')
      .notNull()
      .references(() => members.id),
    name: text('name').notNull(),
    mediaType: text('media_type').notNull(),
    bytes: bigint('bytes', { mode: 'number' }).notNull(),
    at: instant('at').notNull().defaultNow(),
    /** When a hand-off first stored this file in a record. Null while no record contains it. */
    namedAt: instant('named_at'),
  },
  (table) => [
    primaryKey({ columns: [table.member, table.sha256, table.name] }),
    index('files_quota').on(table.member, table.at),
    index('files_unnamed').on(table.at).where(sql`named_at is null`),
  ],
);

/** What a member entered in a form and hasn't handed on: theirs alone. */
export const unfinishedForms = pgTable(
  'unfinished_forms',
  {
    member: uuid('member')
      .notNull()
      .references(() => members.id),
    /** `record.<id>` or `intake.<workflow>.<stage>`. */
    place: text('place').notNull(),
    /** What it is called in a list. */
    title: text('title').notNull(),
    content: jsonb('content').$type<UnfinishedContent>().notNull(),
    bytes: integer('bytes').notNull(),
    revision: integer('revision').notNull(),
    changedAt: instant('changed_at').notNull().defaultNow(),
  },
  (table) => [primaryKey({ columns: [table.member, table.place] }), index('unfinished_forms_age').on(table.changedAt)],
);

/** How people without an account begin records at an intake. */
export const publicLinks = pgTable(
  'public_links',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    workflow: text('workflow')
      .notNull()
      .references(() => workflows.key),
    stage: text('stage').notNull(),
    /** The unguessable part of its address; replaced when it is renewed. */
    address: text('address').notNull().unique(),
    settings: jsonb('settings').$type<PublicLinkSettings>().notNull(),
    /** Records that were begun by it. */
    begun: integer('begun').notNull().default(0),
    changedAt: instant('changed_at').notNull().defaultNow(),
  },
  (table) => [uniqueIndex('public_links_intake').on(table.workflow, table.stage)],
);

/** Guests by the public link they came by; kept from their first file or record on. */
/** Files that are being handed over in parts, with the bytes that were announced. */
export const uploads = pgTable(
  'uploads',
  {
    id: text('id').primaryKey(),
    member: uuid('member').notNull(),
    /** Of a guest: the public link, and the address they come from. */
    link: uuid('link'),
    address: text('address').notNull(),
    bytes: bigint('bytes', { mode: 'number' }).notNull(),
    begunAt: instant('begun_at').notNull().defaultNow(),
  },
  (table) => [index('uploads_begun').on(table.begunAt)],
);

export const guests = pgTable(
  'guests',
  {
    member: uuid('member')
      .primaryKey()
      .references(() => members.id, { onDelete: 'cascade' }),
    link: uuid('link')
      .notNull()
      .references(() => publicLinks.id),
    /** When their pass was issued. */
    issuedAt: instant('issued_at').notNull(),
    /** The record they began, and when; null while they haven't. */
    record: uuid('record'),
    begunAt: instant('begun_at'),
  },
  (table) => [
    index('guests_begun').on(table.link, table.begunAt).where(sql`begun_at is not null`),
    index('guests_idle').on(table.issuedAt).where(sql`record is null`),
  ],
);

/** How records were before the last hand-off of many, for whoever takes it back; forgotten within the hour. */
export const reversibleHandOffs = pgTable('reversible_hand_offs', {
  record: uuid('record')
    .primaryKey()
    .references(() => records.id),
  /** The revision that the hand-off came to. */
  revision: integer('revision').notNull(),
  member: uuid('member').notNull(),
  handOff: text('hand_off').notNull(),
  before: jsonb('before').$type<WorkflowRecord>().notNull(),
  at: instant('at').notNull().defaultNow(),
});

/**
 * Mail addresses that guests gave, in small letters, and what is known of whether they are those of their givers. Until one is
 * confirmed, no mail of the workspace goes there but the one that asks for it.
 */
export const guestAddresses = pgTable(
  'guest_addresses',
  {
    address: text('address').primaryKey(),
    /** The public link by which it was given last. */
    link: uuid('link')
      .notNull()
      .references(() => publicLinks.id),
    asked: integer('asked').notNull().default(0),
    askedAt: instant('asked_at'),
    confirmedAt: instant('confirmed_at'),
  },
  (table) => [index('guest_addresses_asked').on(table.link, table.askedAt)],
);

/** When members last opened records, and as of which revision: what is new to them, and what a colleague has open. */
export const recordReadings = pgTable(
  'record_readings',
  {
    record: uuid('record')
      .notNull()
      .references(() => records.id, { onDelete: 'cascade' }),
    member: uuid('member')
      .notNull()
      .references(() => members.id),
    revision: integer('revision').notNull(),
    /** Whether they could hand it on then, rather than look on. */
    isActing: boolean('is_acting').notNull(),
    at: instant('at').notNull().defaultNow(),
  },
  (table) => [primaryKey({ columns: [table.record, table.member] }), index('record_readings_age').on(table.at)],
);

/** Points of rate limits that every process shares, as rate-limiter-flexible keeps them. */
export const limits = pgTable(
  'limits',
  {
    key: varchar('key', { length: 255 }).primaryKey(),
    points: integer('points').notNull().default(0),
    expire: bigint('expire', { mode: 'number' }),
  },
  (table) => [index('limits_expiry').on(table.expire)],
);

/** Answers of requests that carried an idempotency key, so that a repeat gets the same. */
export const answeredRequests = pgTable(
  'answered_requests',
  {
    member: uuid('member')
      .notNull()
      .references(() => members.id),
    key: text('key').notNull(),
    /** SHA-256 of what was asked. */
    fingerprint: text('fingerprint').notNull(),
    answer: jsonb('answer').notNull(),
    at: instant('at').notNull().defaultNow(),
  },
  (table) => [primaryKey({ columns: [table.member, table.key] }), index('answered_requests_age').on(table.at)],
);
