import type { Actor, FollowUpConsequence, RefreshConsequence } from '@ypomet/core';
import type { MailHandling } from '../../db/schema.ts';
import type { Queries } from './repository.ts';

export type PendingFollowUp = {
  readonly source: string;
  readonly consequence: FollowUpConsequence;
  readonly depth: number;
  readonly actor: Actor;
  /** What becomes of the mails of the record that is opened; null: they are sent. */
  readonly mails: MailHandling | null;
};

/** A job that opens what is pending of a record; openings run one after another, so that they leave the queue free for deliveries. */
const ADD_OPENING_JOB = (source: string): string =>
  `graphile_worker.add_job('open', json_build_object('record', ${source}), 'openings', null::timestamptz, 25, 'open:' || ${source})`;

/** Notes follow-ups that the queue is to open, with a job for each record that they follow from. `db` is within a transaction. */
export async function addPendingFollowUps(db: Queries, list: readonly PendingFollowUp[]): Promise<void> {
  if (list.length === 0) return;
  await db.query({
    name: 'add-pending-follow-ups',
    text: `with added as (
        insert into pending_follow_ups (source, consequence, depth, actor, mails)
        select (p.value ->> 'source')::uuid, p.value -> 'consequence', (p.value ->> 'depth')::int, p.value -> 'actor', nullif(p.value -> 'mails', 'null'::jsonb)
        from jsonb_array_elements($1::jsonb) with ordinality p order by p.ordinality returning source)
      select count(${ADD_OPENING_JOB('s.source')}) from (select distinct source from added) s`,
    values: [JSON.stringify(list)],
  });
}

/** Queues a job again for pending follow-ups that have none left, because a kill cut off the last attempt of their job. */
export const RAISE_LOST_OPENINGS = `select count(${ADD_OPENING_JOB('s.source')}) from (
    select distinct source from pending_follow_ups where created_at < now() - interval '1 minute') s
  where not exists (select 1 from graphile_worker.jobs j where j.key = 'open:' || s.source)`;

/** How many follow-ups of a record the queue has yet to open. */
export async function countPendingFollowUps(db: Queries, source: string): Promise<number> {
  const { rows } = await db.query<{ count: number }>({
    name: 'count-pending-follow-ups',
    text: 'select count(*)::int as count from pending_follow_ups where source = $1',
    values: [source],
  });
  return rows[0]?.count ?? 0;
}

/** Replaces the carried values of a record's pending follow-ups by current ones, as is done for follow-ups that are already open. */
export async function refreshPendingFollowUps(
  db: Queries,
  source: string,
  refreshes: readonly RefreshConsequence[],
): Promise<void> {
  await db.query({
    name: 'refresh-pending-follow-ups',
    text: `update pending_follow_ups p set consequence = jsonb_set(p.consequence, '{values}', (p.consequence -> 'values') || (r.value -> 'values'))
      from jsonb_array_elements($2::jsonb) r
      where p.source = $1 and p.consequence ->> 'followUp' = r.value ->> 'followUp' and p.consequence -> 'row' = r.value -> 'row'`,
    values: [source, JSON.stringify(refreshes)],
  });
}

/** Takes some of what is pending of a record off the list, oldest first; what another transaction has taken is left out. */
export async function takePendingFollowUps(
  db: Queries,
  source: string,
  atMost: number,
): Promise<readonly Omit<PendingFollowUp, 'source'>[]> {
  const { rows } = await db.query<Omit<PendingFollowUp, 'source'>>({
    name: 'take-pending-follow-ups',
    text: `with taken as (
        delete from pending_follow_ups where id in (
          select id from pending_follow_ups where source = $1 order by id limit $2 for update skip locked) returning id, consequence, depth, actor, mails)
      select consequence, depth, actor, mails from taken order by id`,
    values: [source, atMost],
  });
  return rows;
}
