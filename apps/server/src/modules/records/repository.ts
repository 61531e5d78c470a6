import type { DeliveryFault } from '@ypomet/contract';
import type { FileFacts, HandedOn, Json, MemberFacts, RecordEvent, Stage } from '@ypomet/core';
import type pg from 'pg';
import type { Cursor } from '../../paging.ts';
import { RECORD_COLUMNS, type RecordRow } from './record-row.ts';
import { type HandOffRow, INSERT_RECORD, TAKE_NUMBER, writeHandOffsSql } from './write-hand-off.sql.ts';

/** A pool, or a client in a transaction. */
export type Queries = Pick<pg.Pool, 'query'>;

export type StoredAnswer = { readonly fingerprint: string; readonly answer: Json };

export async function findRecords(db: Queries, ids: readonly string[]): Promise<readonly RecordRow[]> {
  if (ids.length === 0) return [];
  const { rows } = await db.query<RecordRow>({
    name: 'find-records',
    text: `select ${RECORD_COLUMNS} from records r where r.id = any($1)`,
    values: [ids],
  });
  return rows;
}

export async function findMembers(db: Queries, ids: readonly string[]): Promise<readonly MemberFacts[]> {
  if (ids.length === 0) return [];
  const { rows } = await db.query<MemberFacts>({
    name: 'find-members',
    text: 'select id, name, roles from members where id = any($1::uuid[])',
    values: [ids],
  });
  return rows;
}

/** Files that a member handed over, by their contents. The latest name counts. */
export async function findFiles(
  db: Queries,
  member: string,
  hashes: readonly string[],
): Promise<readonly (FileFacts & { readonly sha256: string })[]> {
  if (hashes.length === 0) return [];
  const { rows } = await db.query<FileFacts & { readonly sha256: string }>({
    name: 'find-files',
    text: `select sha256, name, media_type as "mediaType", bytes::float8 as bytes from files
      where member = $1 and sha256 = any($2) order by at`,
    values: [member, hashes],
  });
  return rows;
}

export async function findAnswer(db: Queries, member: string, key: string): Promise<StoredAnswer | null> {
  const { rows } = await db.query<StoredAnswer>({
    name: 'find-answer',
    text: 'select fingerprint, answer from answered_requests where member = $1 and key = $2',
    values: [member, key],
  });
  return rows[0] ?? null;
}

export async function takeNumber(db: Queries, workflow: string): Promise<number> {
  const { rows } = await db.query<{ number: number }>({ name: 'take-number', text: TAKE_NUMBER, values: [workflow] });
  return rows[0]?.number ?? 1;
}

export async function insertRecord(db: Queries, record: HandedOn['record'], stage: string, createdAt: string): Promise<void> {
  const { id, workflow, version, number, track, submittedBy } = record;
  const values = [id, workflow, version, number, stage, track, submittedBy, createdAt];
  await db.query({ name: 'insert-record', text: INSERT_RECORD, values });
}

export type QueuedMail = {
  readonly id: string;
  readonly kind: 'mail';
  readonly name: string;
  readonly recipients: readonly string[];
  readonly subject: string;
  readonly body: string;
  /** Why it waits for a person from the start; null when it is sent at once. */
  readonly fault: DeliveryFault | null;
};

export type HandOffWrite = {
  readonly record: HandedOn['record'];
  readonly revision: number;
  readonly stage: Stage;
  readonly events: readonly RecordEvent[];
  readonly deliveries: readonly QueuedMail[];
  readonly member: string;
  readonly idempotencyKey: string | null;
  readonly fingerprint: string;
  readonly answer: Json;
};

/** Who has a record waiting at a stage. */
export function waitingFor({ record, stage }: Pick<HandOffWrite, 'record' | 'stage'>): {
  readonly roles: readonly string[];
  readonly member: string | null;
} {
  if (stage.kind === 'end') return { roles: [], member: null };
  if (record.assignee?.kind === 'role') return { roles: [record.assignee.role], member: null };
  if (record.assignee?.kind === 'member') return { roles: [], member: record.assignee.member };
  return stage.roles.length > 0 ? { roles: stage.roles, member: null } : { roles: [], member: record.submittedBy };
}

const toRow = (write: HandOffWrite): HandOffRow => {
  const { record, stage } = write;
  const waiting = waitingFor(write);
  return {
    id: record.id,
    revision: write.revision,
    stage: record.stage,
    stage_kind: stage.kind,
    track: record.track,
    waiting_roles: waiting.roles,
    waiting_member: waiting.member,
    assignee: record.assignee,
    values: record.values,
    defaulted: record.defaulted,
    at: record.arrivedAt,
    events: write.events,
    deliveries: write.deliveries,
    member: write.member,
    key: write.idempotencyKey,
    fingerprint: write.fingerprint,
    answer: write.answer,
  };
};

/**
 * Stores hand-offs of different records in one statement; false for each whose record has changed since its `revision`, or
 * is held by somebody else just now.
 */
export async function writeHandOffs(
  db: Queries,
  writes: readonly HandOffWrite[],
  waits: 'waits' | 'skips-held' = 'waits',
): Promise<readonly boolean[]> {
  const rows = writes.map((write, place) => ({ place, ...toRow(write) }));
  const result = await db.query<{ changed: readonly number[] }>({
    name: `write-hand-offs-${waits}`,
    text: writeHandOffsSql(waits),
    values: [JSON.stringify(rows)],
  });
  const changed = new Set(result.rows[0]?.changed ?? []);
  return writes.map((_, place) => changed.has(place));
}

export type EventRow = { readonly id: string; readonly event: RecordEvent; readonly at: string; readonly by: string | null };

export async function listEvents(db: Queries, record: string): Promise<readonly EventRow[]> {
  const { rows } = await db.query<EventRow>(
    `select e.id::text, e.event, to_char(e.at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as at, m.name as by
     from record_events e left join members m on m.id = e.by where e.record = $1 order by e.id limit 1000`,
    [record],
  );
  return rows;
}

export type ListedRow = RecordRow & { readonly submitter: string | null };

/** Records waiting for a member or their roles, longest waiting first, from after a cursor. */
export async function listWaiting(
  db: Queries,
  member: string,
  roles: readonly string[],
  limit: number,
  after: Cursor | null,
): Promise<readonly ListedRow[]> {
  const { rows } = await db.query<ListedRow>({
    name: 'list-waiting',
    text: `select ${RECORD_COLUMNS}, m.name as submitter from records r left join members m on m.id = r.submitted_by
      where r.stage_kind <> 'end' and (r.waiting_roles && $2::text[] or r.waiting_member = $1)
        and ($3::timestamptz is null or (r.arrived_at, r.id) > ($3::timestamptz, $4::uuid))
      order by r.arrived_at, r.id limit $5`,
    values: [member, roles, after?.at ?? null, after?.id ?? null, limit],
  });
  return rows;
}

/** Records a member submitted, newest first. */
export async function listSubmitted(
  db: Queries,
  member: string,
  limit: number,
  after: Cursor | null,
): Promise<readonly ListedRow[]> {
  const { rows } = await db.query<ListedRow>({
    name: 'list-submitted',
    text: `select ${RECORD_COLUMNS}, m.name as submitter from records r left join members m on m.id = r.submitted_by
      where r.submitted_by = $1 and ($2::timestamptz is null or (r.created_at, r.id) < ($2::timestamptz, $3::uuid))
      order by r.created_at desc, r.id desc limit $4`,
    values: [member, after?.at ?? null, after?.id ?? null, limit],
  });
  return rows;
}

/** Addresses of members by id or by role. */
export async function findAddresses(db: Queries, ids: readonly string[], roles: readonly string[]) {
  const { rows } = await db.query<{ id: string; email: string; roles: readonly string[] }>({
    name: 'find-addresses',
    text: 'select id, email, roles from members where id = any($1::uuid[]) or roles && $2::text[] order by email',
    values: [ids, roles],
  });
  return rows;
}
