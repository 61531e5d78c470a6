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
    waiting_roles text[], waiting_member uuid, assignee jsonb, "values" jsonb, defaulted text[], at timestamptz, events jsonb, deliveries jsonb,
    member uuid, key text, fingerprint text, answer jsonb)
), free as materialized (
  select r.id from records r join input i on r.id = i.id and r.revision = i.revision order by r.id for update of r ${waits === 'waits' ? '' : 'skip locked'}
), changed as (
  update records r set stage = i.stage, stage_kind = i.stage_kind, track = i.track, waiting_roles = i.waiting_roles,
    waiting_member = i.waiting_member, assignee = i.assignee, values = i.values, defaulted = i.defaulted, revision = r.revision + 1, arrived_at = i.at
  from input i, free f where r.id = i.id and f.id = r.id and r.revision = i.revision returning i.place, r.id, r.revision
), logged as (
  insert into record_events (record, revision, event, by, at)
  select c.id, c.revision, e.value, i.member, i.at from changed c join input i using (place),
    jsonb_array_elements(i.events) with ordinality e order by c.place, e.ordinality
), queued as (
  insert into deliveries (id, record, kind, name, recipients, subject, body, status, fault, created_at)
  select (d ->> 'id')::uuid, c.id, d ->> 'kind', d ->> 'name', array(select jsonb_array_elements_text(d -> 'recipients')),
    d ->> 'subject', d ->> 'body', case when jsonb_typeof(d -> 'fault') = 'object' then 'waiting' else 'queued' end, nullif(d -> 'fault', 'null'::jsonb), i.at from changed c join input i using (place), jsonb_array_elements(i.deliveries) d
  returning id, status
), answered as (
  insert into answered_requests (member, key, fingerprint, answer)
  select i.member, i.key, i.fingerprint, i.answer from changed c join input i using (place) where i.key is not null
)
select array(select place from changed) as changed,
  (select count(graphile_worker.add_job('deliver', json_build_object('delivery', id), job_key := id::text, max_attempts := 12)) from queued where status = 'queued') as jobs`;

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
  readonly at: string;
  readonly events: unknown;
  readonly deliveries: unknown;
  readonly member: string;
  readonly key: string | null;
  readonly fingerprint: string;
  readonly answer: unknown;
};

/** Inserts a record at its intake stage, before its first hand-off, in the same transaction as that. */
export const INSERT_RECORD = `
insert into records (id, workflow, version, number, stage, stage_kind, intake, track, submitted_by, values, revision, created_at, arrived_at)
values ($1, $2, $3, $4, $5, 'intake', $5, $6, $7, '{}', 0, $8, $8)`;

/** Takes the next running number of a workflow; holds its row until the transaction ends. */
export const TAKE_NUMBER =
  'update workflows set next_number = next_number + 1 where key = $1 returning next_number - 1 as number';
