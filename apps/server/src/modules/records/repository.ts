import type { DeliveryFault } from '@ypomet/contract';
import type {
  Candidate,
  FileFacts,
  HandedOn,
  Json,
  MemberFacts,
  RecordEvent,
  RichText,
  Stage,
  WorkflowRecord,
} from '@ypomet/core';
import type pg from 'pg';
import type { StoredContent } from '../../db/schema.ts';
import type { ClockColumns } from './clock-columns.ts';
import { RECORD_COLUMNS, type RecordRow } from './record-row.ts';
import { type HandOffRow, INSERT_RECORDS, type NewRecordRow, TAKE_NUMBERS, writeHandOffsSql } from './write-hand-off.sql.ts';

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

/** The same, held until the transaction ends. */
export async function findRecordsForUpdate(db: Queries, ids: readonly string[]): Promise<readonly RecordRow[]> {
  const { rows } = await db.query<RecordRow>({
    name: 'find-records-for-update',
    text: `select ${RECORD_COLUMNS} from records r where r.id = any($1) for update of r`,
    values: [ids],
  });
  return rows;
}

/** A record that the clock has something to do with, held until the transaction ends; null where somebody else holds it. */
export async function takeForClock(db: Queries, id: string): Promise<RecordRow | null> {
  const { rows } = await db.query<RecordRow>({
    name: 'take-for-clock',
    text: `select ${RECORD_COLUMNS} from records r where r.id = $1 for update of r skip locked`,
    values: [id],
  });
  return rows[0] ?? null;
}

/** Records whose time has come, by the latest instant; the longest waiting first. */
export async function findDue(db: Queries, now: string, limit: number): Promise<readonly string[]> {
  const { rows } = await db.query<{ id: string }>({
    name: 'find-due',
    text: 'select id from records where clock_at <= $1 order by clock_at, id limit $2',
    values: [now, limit],
  });
  return rows.map(({ id }) => id);
}

/** Records by which the clock was refused and of which a follow-up has moved since: a condition may read that. */
export async function findRefused(db: Queries, limit: number): Promise<readonly string[]> {
  const { rows } = await db.query<{ id: string }>({
    name: 'find-refused',
    text: `select r.id from records r where cardinality(r.refused) > 0
      and exists (select 1 from records f where f.opened_by = r.id and f.arrived_at > r.refused_at) order by r.id limit $1`,
    values: [limit],
  });
  return rows.map(({ id }) => id);
}

/** Says when the clock looks at a record next. */
export const putClock = (db: Queries, id: string, at: string | null, refused: readonly string[]) =>
  db.query('update records set clock_at = $2, refused = $3 where id = $1', [id, at, refused]);

/** Records that a record opened and that are open still, with what they were opened by, held until the transaction ends. */
export async function findOpenedForUpdate(
  db: Queries,
  openedBy: string,
): Promise<readonly (RecordRow & { readonly followUp: string | null; readonly openedRow: string | null })[]> {
  const { rows } = await db.query<RecordRow & { followUp: string | null; openedRow: string | null }>({
    name: 'find-opened-for-update',
    text: `select ${RECORD_COLUMNS}, r.follow_up as "followUp", r.opened_row as "openedRow" from records r
      where r.opened_by = $1 and r.stage_kind <> 'end' order by r.id for update of r`,
    values: [openedBy],
  });
  return rows;
}

/** Records that a record opened, oldest first. */
export async function findFollowUps(db: Queries, openedBy: readonly string[]): Promise<readonly RecordRow[]> {
  if (openedBy.length === 0) return [];
  const { rows } = await db.query<RecordRow>({
    name: 'find-follow-ups',
    text: `select ${RECORD_COLUMNS} from records r where r.opened_by = any($1) order by r.created_at, r.number, r.id limit 10000`,
    values: [openedBy],
  });
  return rows;
}

/**
 * Finds the records that a record opened, oldest first, and how many follow-ups the queue has yet to open. Both come from one
 * statement: a part that the queue opens meanwhile would otherwise be in neither.
 */
export async function findOpened(
  db: Queries,
  source: string,
): Promise<{ readonly rows: readonly RecordRow[]; readonly opening: number }> {
  const { rows } = await db.query<RecordRow & { readonly opening: number }>({
    name: 'find-opened',
    text: `select p.opening, ${RECORD_COLUMNS}
      from (select count(*)::int as opening from pending_follow_ups where source = $1) p
      left join records r on r.opened_by = $1 order by r.created_at, r.number, r.id limit 10000`,
    values: [source],
  });
  return { rows: rows.filter(({ id }) => id !== null), opening: rows[0]?.opening ?? 0 };
}

/** Writes what came to a record from elsewhere (a web endpoint, the record that opened it), as an event. `by`: the member who did it, if one did. */
export async function writeNoted(
  db: Queries,
  { id, values, due }: WorkflowRecord,
  revision: number,
  event: RecordEvent,
  clock: ClockColumns,
  by: string | null = null,
): Promise<void> {
  await db.query({
    name: 'write-noted',
    text: `with changed as (update records set values = $2, due = $5, due_at = $6, refused = $7, refused_at = null, clock_at = $8, revision = revision + 1
        where id = $1 and revision = $3 returning id, revision)
      insert into record_events (record, revision, event, by, at) select id, revision, $4, $9::uuid, now() from changed`,
    values: [id, JSON.stringify(values), revision, JSON.stringify(event), due, clock.due_at, clock.refused, clock.clock_at, by],
  });
}

/** Whether all that happened to a record since a revision is that answers came and the clock reminded: nobody acted on it. */
export async function isAnsweredOnly(db: Queries, record: string, since: number): Promise<boolean> {
  const { rows } = await db.query<{ only: boolean | null }>(
    `select bool_and(event ->> 'type' in ('answered', 'answer-refused', 'put-away', 'refreshed', 'reminded', 'clock-refused')) as only from record_events where record = $1 and revision > $2`,
    [record, since],
  );
  return rows[0]?.only === true;
}

/** The number of the newest event. */
export async function newestEvent(db: Queries): Promise<bigint> {
  const { rows } = await db.query<{ id: string }>({
    name: 'newest-event',
    text: 'select coalesce(max(id), 0)::text as id from record_events',
  });
  return BigInt(rows[0]?.id ?? 0);
}

/** Events after one, with their records; of very many the newest. */
export async function findRecordsSince(
  db: Queries,
  after: bigint,
): Promise<readonly { readonly id: string; readonly record: string }[]> {
  const { rows } = await db.query<{ id: string; record: string }>({
    name: 'find-records-since',
    text: 'select id::text, record from record_events where id > $1 order by record_events.id desc limit 2000',
    values: [String(after)],
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

/** Members who hold a role, with how much waits for each, and when a stage's work last fell to them. */
export async function findCandidates(db: Queries, role: string, workflow: string, stage: string): Promise<readonly Candidate[]> {
  const { rows } = await db.query<Candidate>({
    name: 'find-candidates',
    text: `select m.id, m.roles, a.at::text as "lastAt",
        (select count(*)::int from records r where r.waiting_member = m.id and r.stage_kind <> 'end') as load
      from members m left join assignments a on a.member = m.id and a.workflow = $2 and a.stage = $3
      where $1 = any(m.roles) order by m.id limit 1000`,
    values: [role, workflow, stage],
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

export const insertAnswer = (
  db: Queries,
  member: string,
  { key, fingerprint, answer }: StoredAnswer & { readonly key: string },
) =>
  db.query('insert into answered_requests (member, key, fingerprint, answer) values ($1, $2, $3, $4)', [
    member,
    key,
    fingerprint,
    JSON.stringify(answer),
  ]);

/** The first of some running numbers of a workflow that nobody else gets. */
export async function takeNumbers(db: Queries, workflow: string, count = 1): Promise<number> {
  const { rows } = await db.query<{ number: number }>({
    name: 'take-numbers',
    text: TAKE_NUMBERS,
    values: [workflow, count],
  });
  return rows[0]?.number ?? 1;
}

export async function insertRecords(db: Queries, rows: readonly NewRecordRow[]): Promise<void> {
  await db.query({ name: 'insert-records', text: INSERT_RECORDS, values: [JSON.stringify(rows)] });
}

/** A delivery as it is queued, with the addresses that its roles and members stand for now. */
export type QueuedDelivery = {
  readonly id: string;
  readonly kind: StoredContent['type'];
  readonly delivery: string;
  readonly outlet: string;
  readonly name: string;
  readonly recipients: readonly string[];
  /** What the dispatch log tells of it. */
  readonly subject: string;
  readonly content: StoredContent;
  /** Why it waits for a person from the start; null when it is sent at once. */
  readonly fault: DeliveryFault | null;
  /** Whether it is noted alone, and never sent. */
  readonly isPutAway?: boolean;
  /** How long it is held back before it is sent. */
  readonly heldSeconds?: number;
  /** Id of the import run that this mail comes from, if the mails of that run to the same receivers are to be sent as one. */
  readonly digest?: string;
};

export type HandOffWrite = {
  readonly record: HandedOn['record'];
  readonly revision: number;
  readonly stage: Stage;
  readonly events: readonly RecordEvent[];
  readonly deliveries: readonly QueuedDelivery[];
  /** SHA-256 of the files that the record names from now on: who handed them over has not left them behind. */
  readonly files?: readonly string[];
  readonly issues: readonly Json[] | null;
  readonly told: RichText | null;
  /** Who did it; null for the clock. */
  readonly member: string | null;
  /** When it happens, an instant in UTC. */
  readonly at: string;
  readonly clock: ClockColumns;
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
    at: write.at,
    arrived_at: record.arrivedAt,
    due: record.due,
    reminded: record.reminded,
    ...write.clock,
    arrives: write.events.some(({ type }) => type === 'handed-on' || type === 'opened'),
    events: write.events,
    deliveries: write.deliveries,
    files: write.files ?? [],
    issues: write.issues,
    told: write.told,
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

export type EventRow = {
  readonly id: string;
  readonly event: RecordEvent;
  readonly at: string;
  readonly by: string | null;
  /** Who did it, by id, and the acknowledgement that they read. */
  readonly byId: string | null;
  readonly told: RichText | null;
  /** The member it was handed over to. */
  readonly memberName: string | null;
};

export async function listEvents(db: Queries, record: string): Promise<readonly EventRow[]> {
  const { rows } = await db.query<EventRow>(
    `select e.id::text, e.event, to_char(e.at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as at, m.name as by,
       e.by as "byId", e.told,
       case when e.event ->> 'type' = 'handed-over' then (select n.name from members n where n.id::text = e.event ->> 'member') end as "memberName"
     from record_events e left join members m on m.id = e.by where e.record = $1 order by e.id limit 1000`,
    [record],
  );
  return rows;
}

/** Members who hold one of some roles, by name. */
export async function findColleagues(db: Queries, roles: readonly string[], but: string, search: string) {
  const { rows } = await db.query<{ id: string; name: string }>(
    `select id, name from members where roles && $1::text[] and id <> $2 and position(lower($3) in lower(name)) > 0 order by name, id limit 50`,
    [roles, but, search.trim()],
  );
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
