import type { Watching } from '@ypomet/contract';
import { destinationsOf, type Workflow } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import type { Queries } from '../records/repository.ts';
import type { Opened } from './service.ts';

/** Where the records of a workflow wait, with whom and how long, and what happened in the last weeks. */
export async function watch(
  { database: { pool }, clock, workspace: { zone } }: Pick<ServerContext, 'database' | 'clock' | 'workspace'>,
  { workflow }: Opened,
  weeks: number,
): Promise<Watching> {
  const { key, stages, roles } = workflow.definition;
  const now = new Date(clock()).toISOString();
  const [loads, held, flow, ways] = [
    await loadsOf(pool, key, now),
    await heldOf(pool, key, now),
    await flowOf(pool, key, now, weeks, zone),
    await waysOf(pool, key, now, weeks, zone),
  ];
  const round = (days: number | null): number | null => (days === null ? null : Math.round(days * 10) / 10);
  return {
    // Of older versions' stages, those where something waits.
    stages: [
      ...stages.filter(({ kind }) => kind !== 'junction' && kind !== 'end').map(({ key: stage, name }) => ({ stage, name })),
      ...loads.filter(({ stage }) => !stages.some((own) => own.key === stage)).map(({ stage }) => ({ stage, name: stage })),
    ].map(({ stage, name }) => {
      const load = loads.find((one) => one.stage === stage);
      const { waiting = 0, overdue = 0, median = null, longest = null } = load ?? {};
      return { stage, name, waiting, overdue, medianDays: round(median), longestDays: round(longest) };
    }),
    holders: held.map(({ role, member, waiting, overdue }) => ({
      name: member ?? roles.find((one) => one.key === role)?.name ?? role ?? '',
      isRole: member === null,
      waiting,
      overdue,
    })),
    weeks: flow.weeks,
    ways: withDesigned(ways, workflow.definition),
    since: flow.since,
  };
}

type Way = { readonly from: string; readonly to: string; readonly times: number };

/** The ways that were taken, and those that the design has besides; junctions are passed, nothing goes from or to them. */
function withDesigned(taken: readonly Way[], { stages, handOffs }: Workflow): Watching['ways'] {
  const kinds = new Map(stages.map(({ key, kind }) => [key, kind]));
  const reach = (stage: string, seen: ReadonlySet<string>): readonly string[] => {
    if (kinds.get(stage) !== 'junction') return [stage];
    if (seen.has(stage)) return [];
    return handOffs
      .filter(({ from }) => from === stage)
      .flatMap((handOff) => destinationsOf(handOff).flatMap(({ to }) => reach(to, new Set([...seen, stage]))));
  };
  const designed = new Map<string, readonly [string, string]>();
  for (const handOff of handOffs) {
    if (kinds.get(handOff.from) === 'junction') continue;
    for (const to of destinationsOf(handOff).flatMap((one) => reach(one.to, new Set())))
      designed.set(`${handOff.from} ${to}`, [handOff.from, to]);
  }
  const known = new Set(taken.map(({ from, to }) => `${from} ${to}`));
  return [
    ...taken.map(({ from, to, times }) => ({ from, to, times, isDesigned: designed.has(`${from} ${to}`) })),
    ...[...designed].flatMap(([way, [from, to]]) => (known.has(way) ? [] : [{ from, to, times: 0, isDesigned: true }])),
  ];
}

/** Waiting records by stage, with how long they have waited, in days. */
async function loadsOf(db: Queries, workflow: string, now: string) {
  const { rows } = await db.query<{ stage: string; waiting: number; overdue: number; median: number; longest: number }>(
    `select r.stage, count(*)::int as waiting, count(*) filter (where r.due_at < $2)::int as overdue,
       percentile_cont(0.5) within group (order by extract(epoch from $2::timestamptz - r.arrived_at) / 86400)::float8 as median,
       (extract(epoch from $2::timestamptz - min(r.arrived_at)) / 86400)::float8 as longest
     from records r where r.workflow = $1 and r.stage_kind <> 'end' group by r.stage`,
    [workflow, now],
  );
  return rows;
}

/** Waiting records by who has them: a member, or the role. One that several roles have counts with each. */
async function heldOf(db: Queries, workflow: string, now: string) {
  const { rows } = await db.query<{ role: string | null; member: string | null; waiting: number; overdue: number }>(
    `select held.role, m.name as member, count(*)::int as waiting, count(*) filter (where held.due_at < $2)::int as overdue
     from (
       select unnest(r.waiting_roles) as role, null::uuid as member, r.due_at from records r
         where r.workflow = $1 and r.stage_kind <> 'end' and r.waiting_member is null
       union all
       select null, r.waiting_member, r.due_at from records r
         where r.workflow = $1 and r.stage_kind <> 'end' and r.waiting_member is not null
     ) held left join members m on m.id = held.member
     group by held.role, held.member, m.name order by waiting desc, coalesce(m.name, held.role) limit 50`,
    [workflow, now],
  );
  return rows;
}

/** Records begun and ended by week, from Monday on in a zone, the weeks without any too. */
async function flowOf(db: Queries, workflow: string, now: string, weeks: number, zone: string) {
  const { rows } = await db.query<{ from: string; begun: number; ended: number; since: string }>(
    `with weeks as (
       select generate_series(date_trunc('week', $2::timestamptz at time zone $4) - ($3::int - 1) * interval '1 week',
         date_trunc('week', $2::timestamptz at time zone $4), interval '1 week') as monday
     ),
     begun as (
       select date_trunc('week', created_at at time zone $4) as monday, count(*)::int as n from records
       where workflow = $1 and created_at >= (select min(monday) from weeks) at time zone $4 group by 1
     ),
     ended as (
       select date_trunc('week', arrived_at at time zone $4) as monday, count(*)::int as n from records
       where workflow = $1 and stage_kind = 'end' and arrived_at >= (select min(monday) from weeks) at time zone $4 group by 1
     )
     select to_char(w.monday, 'YYYY-MM-DD') as "from", coalesce(b.n, 0) as begun, coalesce(e.n, 0) as ended,
       to_char((min(w.monday) over ()) at time zone $4 at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as since
     from weeks w left join begun b using (monday) left join ended e using (monday) order by w.monday`,
    [workflow, now, weeks, zone],
  );
  return { weeks: rows.map(({ from, begun, ended }) => ({ from, begun, ended })), since: rows[0]?.since ?? now };
}

/** How often records went which way in the last weeks. */
async function waysOf(db: Queries, workflow: string, now: string, weeks: number, zone: string) {
  const { rows } = await db.query<{ from: string; to: string; times: number }>(
    `select e.event ->> 'from' as "from", e.event ->> 'to' as "to", count(*)::int as times
     from records r join record_events e on e.record = r.id
     where r.workflow = $1 and e.event ->> 'type' = 'handed-on' and e.event ->> 'from' <> '' and e.event ->> 'to' <> ''
       and not exists (select from record_events t where t.record = e.record and t.revision = e.revision + 1 and t.event ->> 'type' = 'taken-back')
       and e.at >= (date_trunc('week', $2::timestamptz at time zone $4) - ($3::int - 1) * interval '1 week') at time zone $4
     group by 1, 2 order by times desc, 1, 2 limit 500`,
    [workflow, now, weeks, zone],
  );
  return rows;
}
