import { ADD_JOB } from '../deliveries/repository.ts';

/**
 * Stores hand-offs whole: each record under a check of its revision, its events, its deliveries, a job for each, and the
 * answer to the request. One statement, so one round trip and one transaction for all that came in meanwhile; all of it
 * happens or nothing. The places in the list whose record changed come back: where one is missing its revision was stale,
 * and then nothing else is written for it either. A record may be in the list once.
 *
 * Several together skip records that somebody else holds a lock on: one held row doesn't keep the others waiting, and is
 * tried again by itself.
 *
 * $1: a json array of {@link HandOffRow}
 */
export const writeHandOffsSql = (waits: 'waits' | 'skips-held'): string => `
with input as materialized (
  select * from jsonb_to_recordset($1::jsonb) as i(place int, id uuid, revision int, stage text, stage_kind text, track text,
    waiting_roles text[], waiting_member uuid, assignee jsonb, "values" jsonb, defaulted text[], at timestamptz, arrived_at timestamptz,
    due text, due_at timestamptz, reminded text[], refused text[], arrives boolean, clock_at timestamptz, events jsonb, deliveries jsonb, files text[],
    issues jsonb, told jsonb, member uuid, key text, fingerprint text, answer jsonb)
), free as materialized (
  select r.id from records r join input i on r.id = i.id and r.revision = i.revision order by r.id for update of r ${waits === 'waits' ? '' : 'skip locked'}
), changed as (
  update records r set stage = i.stage, stage_kind = i.stage_kind, track = i.track, waiting_roles = i.waiting_roles,
    waiting_member = i.waiting_member, assignee = i.assignee, values = i.values, defaulted = i.defaulted, issues = nullif(i.issues, 'null'::jsonb), revision = r.revision + 1, arrived_at = i.arrived_at,
    due = i.due, due_at = i.due_at, reminded = i.reminded, refused = i.refused, refused_at = case when cardinality(i.refused) > 0 then i.at end, clock_at = i.clock_at
  from input i, free f where r.id = i.id and f.id = r.id and r.revision = i.revision returning i.place, r.id, r.revision
), logged as (
  insert into record_events (record, revision, event, told, by, at)
  select c.id, c.revision, e.value, case when e.ordinality = 1 then nullif(i.told, 'null'::jsonb) end, i.member, i.at from changed c join input i using (place),
    jsonb_array_elements(i.events) with ordinality e order by c.place, e.ordinality
), queued as (
  insert into deliveries (id, record, kind, delivery, outlet, name, recipients, subject, content, status, fault, created_at, next_at, digest)
  select (d ->> 'id')::uuid, c.id, d ->> 'kind', d ->> 'delivery', d ->> 'outlet', d ->> 'name',
    array(select jsonb_array_elements_text(d -> 'recipients')), d ->> 'subject', d -> 'content',
    case when (d ->> 'isPutAway')::boolean then 'put-away' when jsonb_typeof(d -> 'fault') = 'object' then 'waiting' else 'queued' end, nullif(d -> 'fault', 'null'::jsonb), i.at, now() + (d ->> 'heldSeconds')::int * interval '1 second', (d ->> 'digest')::uuid
  from changed c join input i using (place), jsonb_array_elements(i.deliveries) with ordinality e(d, position) order by c.place, e.position
  returning id, outlet, status, next_at, digest
), named as (
  update files f set named_at = now() from changed c join input i using (place)
  where f.member = i.member and f.sha256 = any(i.files) and f.named_at is null
), assigned as (
  insert into assignments (workflow, stage, member, at)
  select distinct r.workflow, i.stage, i.waiting_member, clock_timestamp() from changed c join input i using (place) join records r on r.id = c.id
  where i.arrives and i.assignee ->> 'kind' = 'member' and i.waiting_member is not null
  on conflict (workflow, stage, member) do update set at = excluded.at
), answered as (
  insert into answered_requests (member, key, fingerprint, answer)
  select i.member, i.key, i.fingerprint, i.answer from changed c join input i using (place) where i.key is not null
)
select array(select place from changed) as changed,
  (select count(${ADD_JOB('queued', 'next_at')}) from queued where status = 'queued') as jobs`;

/** One hand-off of {@link writeHandOffsSql}. */
export type HandOffRow = {
  readonly id: string;
  readonly revision: number;
  readonly stage: string;
  readonly stage_kind: string;
  readonly track: string | null;
  readonly waiting_roles: readonly string[];
  readonly waiting_member: string | null;
  readonly assignee: unknown;
  readonly values: unknown;
  readonly defaulted: readonly string[];
  /** When it happens; when the record came to its stage. */
  readonly at: string;
  readonly arrived_at: string;
  readonly due: string | null;
  readonly due_at: string | null;
  readonly reminded: readonly string[];
  readonly refused: readonly string[];
  /** Whether it comes to a stage: what the clock notes moves nothing. */
  readonly arrives: boolean;
  readonly clock_at: string | null;
  readonly events: unknown;
  readonly deliveries: unknown;
  /** SHA-256 of the files that the record's values name. */
  readonly files: readonly string[];
  /** What the form of entry refused of a follow-up; null everywhere else. */
  readonly issues: unknown;
  /** The acknowledgement. */
  readonly told: unknown;
  /** Null: the clock did it. */
  readonly member: string | null;
  readonly key: string | null;
  readonly fingerprint: string;
  readonly answer: unknown;
};

/**
 * Inserts records at their intake stages, before their first hand-off, in the same transaction as that.
 *
 * $1: a json array of {@link NewRecordRow}
 */
export const INSERT_RECORDS = `
insert into records (id, workflow, version, number, stage, stage_kind, intake, track, submitted_by, values, revision, created_at, arrived_at,
  opened_by, follow_up, opened_row, depth)
select id, workflow, version, number, stage, 'intake', stage, track, submitted_by, '{}', 0, created_at, created_at,
  opened_by, follow_up, opened_row, depth
from jsonb_to_recordset($1::jsonb) as n(id uuid, workflow text, version int, number text, stage text, track text, submitted_by uuid,
  created_at timestamptz, opened_by uuid, follow_up text, opened_row text, depth int)`;

export type NewRecordRow = {
  readonly id: string;
  readonly workflow: string;
  readonly version: number;
  readonly number: string;
  readonly stage: string;
  readonly track: string | null;
  readonly submitted_by: string | null;
  readonly created_at: string;
  readonly opened_by: string | null;
  readonly follow_up: string | null;
  readonly opened_row: string | null;
  readonly depth: number;
};

/** Takes running numbers of a workflow, the first of them; holds its row until the transaction ends. */
export const TAKE_NUMBERS =
  'update workflows set next_number = next_number + $2 where key = $1 returning next_number - $2 as number';
