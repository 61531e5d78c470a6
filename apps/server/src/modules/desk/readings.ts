import type { Queries } from '../records/repository.ts';

/** For so long after a colleague opened a record it counts as open. */
const OPEN_MINUTES = 10;

type Reading = { readonly member: string; readonly record: string; readonly revision: number; readonly isActing: boolean };

/** Notes that a member opened a record as of a revision. */
export async function noteReading(db: Queries, { record, member, revision, isActing }: Reading): Promise<void> {
  await db.query(
    `insert into record_readings (record, member, revision, is_acting) values ($1, $2, $3, $4)
       on conflict (record, member) do update set revision = excluded.revision, is_acting = excluded.is_acting, at = now()`,
    [record, member, revision, isActing],
  );
}

/** What is known of a record's readings by somebody: the revision they opened last, and a colleague who has it open. */
export type Read = { readonly revision: number | null; readonly openedBy: string | null };

/** The readings of some records for a member; nothing of a record that nobody opened. */
export async function listReadings(db: Queries, member: string, records: readonly string[]): Promise<ReadonlyMap<string, Read>> {
  const { rows } = await db.query<Read & { record: string }>({
    name: 'list-readings',
    text: `select q.record, max(q.revision) filter (where q.member = $1) as revision,
        (array_agg(m.name order by q.at desc)
          filter (where q.member <> $1 and q.is_acting and q.at > now() - make_interval(mins => ${OPEN_MINUTES})))[1] as "openedBy"
      from record_readings q join members m on m.id = q.member where q.record = any($2::uuid[]) group by q.record`,
    values: [member, records],
  });
  return new Map(rows.map(({ record, ...read }) => [record, read]));
}
