/**
 * Stores one hand-off whole: the record under a check of its revision, its event, its deliveries, a job for each, and the
 * answer to the request. One statement, so one round trip and one transaction; all of it happens or nothing. The number of
 * records changed comes back: 0 when the revision was stale, and then nothing else is written either.
 *
 * $1 record id, $2 revision read, $3 stage, $4 stage kind, $5 track, $6 waiting roles, $7 waiting member, $8 assignee,
 * $9 values, $10 now, $11 events (json array), $12 deliveries (json array), $13 member, $14 idempotency key or null,
 * $15 fingerprint, $16 answer
 */
export const WRITE_HAND_OFF = `
with changed as (
  update records set stage = $3, stage_kind = $4, track = $5, waiting_roles = $6, waiting_member = $7, assignee = $8::jsonb,
    values = $9::jsonb, revision = revision + 1, arrived_at = $10
  where id = $1 and revision = $2 returning id, revision
), logged as (
  insert into record_events (record, revision, event, by, at)
  select c.id, c.revision, e.value, $13::uuid, $10 from changed c, jsonb_array_elements($11::jsonb) with ordinality e order by e.ordinality
), queued as (
  insert into deliveries (id, record, kind, name, recipients, subject, body, created_at)
  select (d ->> 'id')::uuid, c.id, d ->> 'kind', d ->> 'name', array(select jsonb_array_elements_text(d -> 'recipients')),
    d ->> 'subject', d ->> 'body', $10 from changed c, jsonb_array_elements($12::jsonb) d returning id
), answered as (
  insert into answered_requests (member, key, fingerprint, answer)
  select $13::uuid, $14::text, $15::text, $16::jsonb from changed where $14::text is not null
)
select (select count(*)::int from changed) as changed,
  (select count(graphile_worker.add_job('deliver', json_build_object('delivery', id), job_key := id::text, max_attempts := 12)) from queued) as jobs`;

/** Inserts a record at its intake stage, before its first hand-off, in the same transaction as that. */
export const INSERT_RECORD = `
insert into records (id, workflow, version, number, stage, stage_kind, track, submitted_by, values, revision, created_at, arrived_at)
values ($1, $2, $3, $4, $5, 'intake', $6, $7, '{}', 0, $8, $8)`;

/** Takes the next running number of a workflow; holds its row until the transaction ends. */
export const TAKE_NUMBER =
  'update workflows set next_number = next_number + 1 where key = $1 returning next_number - 1 as number';
