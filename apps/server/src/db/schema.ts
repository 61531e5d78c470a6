import type { AcceptedWarning, DeliveryFault } from '@ypomet/contract';
import type { Assignee, Edit, EditSentence, Json, RecordEvent, Workflow } from '@ypomet/core';
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
    createdAt: instant('created_at').notNull().defaultNow(),
  },
  (table) => [uniqueIndex('members_email').on(sql`lower(${table.email})`)],
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
    /** Fields whose default is spent. */
    defaulted: text('defaulted').array().notNull().default(sql`'{}'`),
    revision: integer('revision').notNull().default(1),
    createdAt: instant('created_at').notNull(),
    arrivedAt: instant('arrived_at').notNull(),
  },
  (table) => [
    uniqueIndex('records_number').on(table.workflow, table.number),
    index('records_arrival').on(table.arrivedAt, table.id).where(sql`stage_kind <> 'end'`),
    index('records_waiting_roles').using('gin', table.waitingRoles).where(sql`stage_kind <> 'end'`),
    index('records_waiting_member').on(table.waitingMember, table.arrivedAt),
    index('records_submitter').on(table.submittedBy, table.createdAt),
    index('records_version').on(table.workflow, table.version).where(sql`stage_kind <> 'end'`),
  ],
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
    by: uuid('by').references(() => members.id),
    at: instant('at').notNull(),
  },
  (table) => [index('record_events_record').on(table.record, table.id)],
);

export const deliveries = pgTable(
  'deliveries',
  {
    /** Also the key by which a receiver can drop repeats. */
    id: uuid('id').primaryKey(),
    record: uuid('record')
      .notNull()
      .references(() => records.id),
    kind: text('kind').notNull(),
    name: text('name').notNull(),
    recipients: text('recipients').array().notNull(),
    subject: text('subject').notNull(),
    body: text('body').notNull(),
    status: text('status').notNull().default('queued'),
    attempts: integer('attempts').notNull().default(0),
    /** Why it waits, or is tried again. */
    fault: jsonb('fault').$type<DeliveryFault>(),
    createdAt: instant('created_at').notNull(),
    sentAt: instant('sent_at'),
  },
  (table) => [index('deliveries_newest').on(table.createdAt, table.id), index('deliveries_record').on(table.record)],
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
  },
  (table) => [primaryKey({ columns: [table.member, table.sha256, table.name] }), index('files_quota').on(table.member, table.at)],
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
