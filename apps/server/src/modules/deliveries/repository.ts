import type { DeliveryAttempt, DeliveryEntry, DeliveryFault } from '@ypomet/contract';
import type { Json } from '@ypomet/core';
import type pg from 'pg';
import type { StoredContent } from '../../db/schema.ts';
import type { Cursor } from '../../paging.ts';

type Queries = Pick<pg.Pool, 'query'>;
export type DeliveryRow = DeliveryEntry & {
  readonly body: string;
  readonly content: StoredContent | null;
  /** Id of the import run that this mail came from, whose mails to the same receivers are sent as one; null for all other deliveries. */
  readonly digest: string | null;
};

const instant = (column: string): string => `to_char(${column} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"')`;
const ENTRY = `d.id, d.record as "recordId", r.number as "recordNumber", r.workflow, d.kind, d.delivery, d.outlet, d.name, d.recipients, d.subject, d.status,
  coalesce((d.content ->> 'hidesReceivers')::boolean, false) as "hidesReceivers",
  d.attempts, d.fault, ${instant('d.created_at')} as "createdAt", ${instant('d.next_at')} as "nextAt", ${instant('d.sent_at')} as "sentAt"`;
const WHOLE = `${ENTRY}, d.body, d.content, d.digest`;

/** What the dispatch log is narrowed to. */
export type DeliveryFilter = {
  readonly status?: DeliveryEntry['status'] | undefined;
  readonly outlet?: string | undefined;
  readonly workflow?: string | undefined;
  readonly record?: string | undefined;
  readonly from?: string | undefined;
  readonly to?: string | undefined;
};

export async function listDeliveries(
  db: Queries,
  filter: DeliveryFilter,
  zone: string,
  limit: number,
  after: Cursor | null,
): Promise<readonly DeliveryEntry[]> {
  const values: unknown[] = [];
  const put = (value: unknown): string => `$${values.push(value)}`;
  const conditions = [
    ...(filter.status ? [`d.status = ${put(filter.status)}`] : []),
    ...(filter.outlet ? [`d.outlet = ${put(filter.outlet)}`] : []),
    ...(filter.workflow ? [`r.workflow = ${put(filter.workflow)}`] : []),
    ...(filter.record ? [`r.number = ${put(filter.record)}`] : []),
    ...(filter.from ? [`d.created_at >= (${put(filter.from)}::date)::timestamp at time zone ${put(zone)}`] : []),
    ...(filter.to ? [`d.created_at < (${put(filter.to)}::date + 1)::timestamp at time zone ${put(zone)}`] : []),
    ...(after ? [`(d.created_at, d.id) < (${put(after.at)}::timestamptz, ${put(after.id)}::uuid)`] : []),
  ];
  const where = conditions.length > 0 ? `where ${conditions.join(' and ')}` : '';
  const { rows } = await db.query<DeliveryEntry>(
    `select ${ENTRY} from deliveries d join records r on r.id = d.record ${where}
     order by d.created_at desc, d.id desc limit ${put(limit)}`,
    values,
  );
  return rows;
}

export async function findDelivery(db: Queries, id: string): Promise<DeliveryRow | null> {
  const { rows } = await db.query<DeliveryRow>({
    name: 'find-delivery',
    text: `select ${WHOLE} from deliveries d join records r on r.id = d.record where d.id = $1`,
    values: [id],
  });
  return rows[0] ?? null;
}

export async function listAttempts(db: Queries, id: string): Promise<readonly DeliveryAttempt[]> {
  const { rows } = await db.query<DeliveryAttempt>(
    `select ${instant('at')} as at, duration_ms as "durationMs", is_sent as "isSent", fault, answer, coalesce(issues, '[]') as issues
     from delivery_attempts where delivery = $1 order by id desc limit 100`,
    [id],
  );
  return rows;
}

/** An attempt that came to an end. */
export type Attempt = {
  readonly id: string;
  readonly durationMs: number;
  readonly answer: string;
  readonly issues: readonly Json[] | null;
};

/** Notes an attempt that sent it, unless another had sent it meanwhile. */
export const markSent = (db: Queries, { id, durationMs, answer, issues }: Attempt): Promise<unknown> =>
  db.query({
    name: 'mark-sent',
    text: `with sent as (
      update deliveries set status = 'sent', sent_at = now(), next_at = null, attempts = attempts + 1, fault = null
      where id = $1 and status <> 'sent' returning id),
    noted as (insert into delivery_attempts (delivery, duration_ms, is_sent, answer, issues) select id, $2, true, $3, $4 from sent)
    select graphile_worker.remove_job(id::text) from sent`,
    values: [id, durationMs, answer, issues === null ? null : JSON.stringify(issues)],
  });

/**
 * Notes a failed attempt, unless another settled the delivery meanwhile: it comes again after a pause, or waits for a person
 * where that is null. `taken`: receivers who have it all the same.
 */
export const markFailed = (
  db: Queries,
  { id, durationMs, answer, issues }: Attempt,
  fault: DeliveryFault,
  pauseSeconds: number | null,
  taken: readonly string[] = [],
): Promise<unknown> =>
  db.query({
    name: 'mark-failed',
    text: `with failed as (
      update deliveries set status = case when $5::float8 is null then 'waiting' else 'queued' end, attempts = attempts + 1, fault = $3,
        next_at = now() + $5::float8 * interval '1 second',
        content = case when $6::jsonb = '[]' then content
          else jsonb_set(content, '{taken}', coalesce(content -> 'taken', '[]') || $6::jsonb) end where id = $1 and status = 'queued' returning id, outlet, digest, next_at),
    noted as (
      insert into delivery_attempts (delivery, duration_ms, is_sent, fault, answer, issues) select id, $2, false, $3, $4, $7 from failed)
    select ${ADD_JOB('failed', 'next_at')} from failed where next_at is not null`,
    values: [
      id,
      durationMs,
      JSON.stringify(fault),
      answer,
      pauseSeconds,
      JSON.stringify(taken),
      issues === null ? null : JSON.stringify(issues),
    ],
  });

/** Whether an outlet keeps the order of its deliveries: file registers do, web endpoints where that is set. */
const IS_ORDERED = (outlet: string): string =>
  `coalesce((select o.settings ->> 'kind' = 'file' or (o.settings ->> 'isOrdered')::boolean from outlets o where o.key = ${outlet}), false)`;

/** Which of the two queues of an outlet a delivery is in. Mails that are sent as one are in the same, so that no two jobs send them. */
const SLOT_OF = (of: string): string => `abs(hashtext(coalesce(${of}.digest, ${of}.id)::text)) % 2`;

/**
 * A job for a delivery. Each outlet has two queues of its own, so that one whose receiver is dead or slow holds up no other;
 * one that keeps the order has one.
 */
export const ADD_JOB = (of: string, runAt = 'null::timestamptz'): string =>
  `graphile_worker.add_job('deliver', json_build_object('delivery', ${of}.id),
    'outlet:' || ${of}.outlet || ':' || case when ${IS_ORDERED(`${of}.outlet`)} then 0 else ${SLOT_OF(of)} end,
    ${runAt}, 25, ${of}.id::text)`;

/**
 * Finds the delivery that an outlet has to send next before it can be done with delivery `id`: the earliest queued one where
 * the outlet keeps the order, else `id` itself. Deliveries that wait for a person hold up nothing. Null if `id` isn't queued.
 * One look into an index, however many are queued. `isResting`: it failed a moment ago, and the time for its next attempt hasn't come.
 */
export async function findNextInOrder(
  db: Queries,
  id: string,
): Promise<{ readonly id: string; readonly isResting: boolean } | null> {
  const { rows } = await db.query<{ id: string; isResting: boolean }>({
    name: 'find-next-in-order',
    text: `with own as (
        select id, outlet, next_at, ${IS_ORDERED('outlet')} as is_ordered from deliveries where id = $1 and status = 'queued'
      ), next as (
        select id, next_at from own where not is_ordered
        union all
        select earliest.id, earliest.next_at from own, lateral (
          select d.id, d.next_at from deliveries d where d.outlet = own.outlet and d.status = 'queued' order by d.sequence limit 1
        ) earliest where own.is_ordered)
      select id, coalesce(next_at > now(), false) as "isResting" from next`,
    values: [id],
  });
  return rows[0] ?? null;
}

/** Deliveries that a job can go on with, the earliest first. */
export type Further = { readonly ids: readonly string[]; readonly isOrdered: boolean };

/**
 * Finds further due deliveries of the queue that delivery `id` is in. If the outlet keeps the order, deliveries that come after
 * a resting one are left out. Mails that are sent as one are left to their own jobs.
 */
export async function findFurther(db: Queries, id: string, limit: number): Promise<Further> {
  const { rows } = await db.query<{ id: string; isDue: boolean; isOrdered: boolean }>({
    name: 'find-further',
    text: `with own as (select outlet, ${SLOT_OF('deliveries')} as slot, ${IS_ORDERED('outlet')} as is_ordered from deliveries where id = $1)
      select d.id, coalesce(d.next_at <= now(), true) as "isDue", own.is_ordered as "isOrdered" from own, lateral (
        select d.id, d.next_at from deliveries d where d.outlet = own.outlet and d.status = 'queued' and d.digest is null
          and (own.is_ordered or (${SLOT_OF('d')} = own.slot and coalesce(d.next_at <= now(), true)))
        order by d.sequence limit $2) d`,
    values: [id, limit],
  });
  const resting = rows.findIndex(({ isDue }) => !isDue);
  const due = resting < 0 ? rows : rows.slice(0, resting);
  return { ids: due.map((row) => row.id), isOrdered: rows[0]?.isOrdered ?? false };
}

/** Queues the job of delivery `id` again: for when the delivery `after` may be tried again, or at once where it rests no more. */
export const putOffUntilAfter = (db: Queries, id: string, after: string): Promise<unknown> =>
  db.query({
    name: 'put-off-until-after',
    text: `select ${ADD_JOB('own', 'greatest(earlier.next_at, now())')} from deliveries own, deliveries earlier
      where own.id = $1 and earlier.id = $2 and own.status = 'queued'`,
    values: [id, after],
  });

/** Returns the position of a delivery among the deliveries of its record, from 1, in the order of the hand-offs. */
export async function sequenceOf(db: Queries, id: string): Promise<number> {
  const { rows } = await db.query<{ sequence: number }>({
    name: 'sequence-of',
    text: `select count(*)::int as sequence from deliveries d join deliveries own on own.id = $1 and d.record = own.record and d.sequence <= own.sequence`,
    values: [id],
  });
  return rows[0]?.sequence ?? 1;
}

/**
 * Notes that a mail waits for receivers to confirm their addresses. `taken`: the other receivers, to whom it was sent. Changes
 * nothing if the mail was settled meanwhile.
 */
export const markUnconfirmed = (
  db: Queries,
  id: string,
  unconfirmed: readonly string[],
  taken: readonly string[],
): Promise<unknown> =>
  db.query({
    name: 'mark-unconfirmed',
    text: `update deliveries set status = 'unconfirmed', fault = '{"code":"unconfirmed","params":{}}', next_at = null,
      content = content || jsonb_build_object('unconfirmed', $2::jsonb, 'taken', coalesce(content -> 'taken', '[]') || $3::jsonb)
      where id = $1 and status = 'queued'`,
    values: [id, JSON.stringify(unconfirmed.map((one) => one.toLowerCase())), JSON.stringify(taken)],
  });

/**
 * Queues a mail again if an address that it waits for was confirmed while the mail was being noted as waiting. Waits for a
 * confirmation that is being stored just now, so that none is missed.
 */
export const requeueIfConfirmed = (db: Queries, id: string): Promise<unknown> =>
  db.query({
    name: 'requeue-if-confirmed',
    text: `with asked as materialized (
      select g.confirmed_at from guest_addresses g join deliveries d on d.id = $1 and d.content -> 'unconfirmed' ? g.address for share of g
    ), again as (
      update deliveries set status = 'queued', fault = null
      where id = $1 and status = 'unconfirmed' and exists (select from asked where confirmed_at is not null) returning id, outlet, digest)
    select ${ADD_JOB('again')} from again`,
    values: [id],
  });

/** Queues the mails that wait for the confirmation of an address, in small letters. */
export const requeueConfirmed = (db: Queries, address: string): Promise<unknown> =>
  db.query(
    `with again as (update deliveries set status = 'queued', fault = null
       where status = 'unconfirmed' and content -> 'unconfirmed' ? $1 returning id, outlet, digest)
     select ${ADD_JOB('again')} from again`,
    [address],
  );

/** States in which a delivery goes no further by itself, so that a person may correct it or put it away. */
const STOPPED = `('waiting', 'unconfirmed')`;

/** Says of a waiting delivery that it isn't sent any more; false where it doesn't wait. */
export async function markPutAway(db: Queries, id: string, fault: DeliveryFault): Promise<boolean> {
  const { rowCount } = await db.query(
    `update deliveries set status = 'put-away', fault = $2, next_at = null where id = $1 and status in ${STOPPED}`,
    [id, JSON.stringify(fault)],
  );
  return rowCount === 1;
}

/** Replaces what a waiting delivery is sent as; false where it doesn't wait. */
export async function correctDelivery(
  db: Queries,
  id: string,
  { outlet, recipients, subject, content }: Pick<DeliveryRow, 'outlet' | 'recipients' | 'subject' | 'content'>,
): Promise<boolean> {
  const { rowCount } = await db.query(
    `update deliveries set outlet = $2, recipients = $3, subject = $4, content = $5, fault = null where id = $1 and status in ${STOPPED}`,
    [id, outlet, recipients, subject, JSON.stringify(content)],
  );
  return rowCount === 1;
}

/** How many deliveries wait for a person. */
export async function countWaiting(db: Queries): Promise<number> {
  const { rows } = await db.query<{ count: number }>({
    name: 'count-waiting',
    text: `select count(*)::int as count from deliveries where status = 'waiting'`,
  });
  return rows[0]?.count ?? 0;
}

/** Counts the deliveries of each outlet that are queued, or wait for a person or for a confirmed address. Reads an index of unsent deliveries alone. */
export async function countUnsent(
  db: Queries,
): Promise<readonly { readonly outlet: string; readonly status: string; readonly count: number }[]> {
  const { rows } = await db.query<{ outlet: string; status: string; count: number }>({
    name: 'count-unsent',
    text: `select outlet, status, count(*)::int as count from deliveries
      where status <> 'sent' and status in ('queued', 'waiting', 'unconfirmed') group by outlet, status`,
  });
  return rows;
}

/** Queues waiting deliveries again: those named, or all of an outlet; how many. */
export async function requeueDeliveries(
  db: Queries,
  { ids, outlet }: { readonly ids?: readonly string[] | undefined; readonly outlet?: string | undefined },
): Promise<number> {
  const { rows } = await db.query<{ queued: number }>(
    `with again as (update deliveries set status = 'queued', next_at = null
       where (status = 'waiting' or (status = 'unconfirmed' and id = any($1::uuid[])))
       and ($1::uuid[] is null or id = any($1)) and ($2::text is null or outlet = $2) returning id, outlet, digest),
     added as (select ${ADD_JOB('again')} as job from again)
     select count(job)::int as queued from added`,
    [ids ?? null, outlet ?? null],
  );
  return rows[0]?.queued ?? 0;
}
