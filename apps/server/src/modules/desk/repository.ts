import type { DeskSettings } from '@ypomet/contract';
import { loweredFor } from '../../db/lower-case.ts';
import type { Cursor } from '../../paging.ts';
import { type ListedRow, RECORD_COLUMNS } from '../records/record-row.ts';
import type { Queries } from '../records/repository.ts';
import type { Where } from '../registers/repository.ts';
import { type KeptView, VIEW, type ViewRow } from '../views/views.ts';

/** `place`: what it is ordered by, to the microsecond. */
export type WaitingRow = ListedRow & { readonly place: string };

/** Whose desk it is. */
export type Owner = { readonly id: string; readonly roles: readonly string[] };

const waits = (member: string, roles: string): string =>
  `r.stage_kind <> 'end' and (r.waiting_roles && ${roles}::text[] or r.waiting_member = ${member})`;
/** What the desk is ordered by; what has no due date comes last. */
const ORDERS = { arrived: 'r.arrived_at', due: "coalesce(r.due_at, '9999-12-31T00:00:00Z')" } as const;

/** Records waiting for a member or their roles, longest waiting or soonest due first, from after a cursor. */
export async function listWaiting(
  db: Queries,
  owner: Owner,
  where: Where,
  sort: keyof typeof ORDERS,
  after: Cursor | null,
  limit: number,
): Promise<readonly WaitingRow[]> {
  const by = ORDERS[sort];
  const values = [...where.values];
  const add = (value: unknown, type: string): string => `$${values.push(value)}::${type}`;
  const from = after === null ? 'true' : `(${by}, r.id) > (${add(after.at, 'timestamptz')}, ${add(after.id, 'uuid')})`;
  // Planned anew each time, without a name: which index serves best depends on how much waits for these roles.
  const { rows } = await db.query<WaitingRow>({
    text: `select ${RECORD_COLUMNS}, m.name as submitter, to_char(${by} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"') as place
      from records r left join members m on m.id = r.submitted_by
      where ${waits(add(owner.id, 'uuid'), add(owner.roles, 'text[]'))} and ${where.sql} and ${from}
      order by ${by}, r.id limit ${add(limit, 'int')}`,
    values,
  });
  return rows;
}

/** Records whose number, or whose submitter's name, holds a text; of a workflow, and a stage, where they are named. */
export function whereNamed(workflow: string | null, stage: string | null, find: string): Where {
  const lowered = loweredFor(find);
  return {
    sql: `($1::text is null or r.workflow = $1) and ($2::text is null or r.stage = $2)
      and ($3 = '' or position(${lowered('$3')} in ${lowered("r.number || ' ' || coalesce(m.name, '')")}) > 0)`,
    values: [workflow, stage, find.trim()],
  };
}

/** How much waits for a member, by workflow, version and stage, and how much of it is overdue. */
export async function countWaiting(db: Queries, { id, roles }: Owner, now: string) {
  const { rows } = await db.query<{ workflow: string; version: number; stage: string; waiting: number; overdue: number }>({
    text: `select r.workflow, r.version, r.stage, count(*)::int as waiting, count(*) filter (where r.due_at < $3)::int as overdue
      from records r where ${waits('$1', '$2')} group by r.workflow, r.version, r.stage order by r.workflow, r.version desc, r.stage`,
    values: [id, roles, now],
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

/** A member's views of the desk, and those that others with one of the same roles share. */
export async function listViews(db: Queries, { id, roles }: Owner): Promise<readonly ViewRow<DeskSettings>[]> {
  const { rows } = await db.query<ViewRow<DeskSettings>>(
    `select ${VIEW} from desk_views v join members m on m.id = v.owner
     where v.owner = $1 or (v.is_shared and m.roles && $2::text[]) order by v.name, v.id limit 500`,
    [id, roles],
  );
  return rows;
}

/** Keeps a view, unless the member has so many already. */
export async function insertView(
  db: Queries,
  owner: string,
  view: KeptView<DeskSettings>,
  most: number,
): Promise<ViewRow<DeskSettings> | null> {
  const { rows } = await db.query<ViewRow<DeskSettings>>(
    `with v as (insert into desk_views (owner, name, is_shared, settings)
       select $1, $2, $3, $4 where (select count(*) from desk_views where owner = $1) < $5 returning *)
     select ${VIEW} from v join members m on m.id = v.owner`,
    [owner, view.name, view.isShared, JSON.stringify(view.settings), most],
  );
  return rows[0] ?? null;
}
