import type pg from 'pg';

/** A queue whose jobs are due and don't move. `outlet`: null for the queue that opens follow-ups. */
export type Standing = { readonly outlet: string | null; readonly dueSeconds: number };

/** An outlet stands still if a job has been due for this long and no delivery of the outlet was attempted meanwhile. */
const STANDS_AFTER = `interval '2 minutes'`;
/** A job that has been locked for this long is no longer running: every job ends sooner than this. */
const HELD_AT_MOST = `interval '10 minutes'`;
/** How many of the newest attempts are examined: more than the busiest two minutes produce. */
const NEWEST_ATTEMPTS = 5000;

/** The queues that stand still, the one that has stood longest first: what is queued there goes nowhere by itself. */
export async function findStanding(db: Pick<pg.Pool, 'query'>): Promise<readonly Standing[]> {
  const { rows } = await db.query<Standing>({
    name: 'find-standing',
    text: `with due as (
        select substring(j.queue_name from '^outlet:(.*):[0-9]+$') as outlet, min(j.run_at) as since from graphile_worker.jobs j
        where j.run_at < now() - ${STANDS_AFTER} and j.attempts < j.max_attempts
          and (j.locked_at is null or j.locked_at < now() - ${HELD_AT_MOST}) group by 1
      ), moving as (
        select distinct d.outlet from delivery_attempts a join deliveries d on d.id = a.delivery
        where a.id > (select coalesce(max(id), 0) - ${NEWEST_ATTEMPTS} from delivery_attempts) and a.at > now() - ${STANDS_AFTER}
      )
      select outlet, extract(epoch from now() - since)::int as "dueSeconds" from due
      where outlet is null or outlet not in (select outlet from moving) order by since`,
  });
  return rows;
}
