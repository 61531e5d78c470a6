import type { RegisterSettings } from '@ypomet/contract';
import type { Workflow } from '@ypomet/core';
import { loweredFor } from '../../db/lower-case.ts';
import { type ListedRow, RECORD_COLUMNS } from '../records/record-row.ts';
import type { Queries } from '../records/repository.ts';
import { type KeptView, VIEW, type ViewRow } from '../views/views.ts';

/** A statement's condition with its parameters. */
export type Where = { readonly sql: string; readonly values: readonly unknown[] };

/** What rows are ordered by: SQL that is null where there is nothing, and the type that a place in the order is read back as. */
export type Order = {
  readonly sql: string;
  readonly type: 'text' | 'numeric' | 'boolean' | 'bigint' | 'timestamptz' | 'int';
  readonly direction: 'up' | 'down';
};
/** Where a page ended: the value in the order, as text, or null among those that have none; and the record. */
export type Place = { readonly value: string | null; readonly id: string };
export type RegisterRow = ListedRow & { readonly place: string | null };

const FROM = 'from records r left join members m on m.id = r.submitted_by';

/**
 * Records in an order, from after a place. Those without a value in the order come last, by a statement of their own: each
 * of the two is a range of an index, where there is one.
 */
export async function listRegister(
  db: Queries,
  where: Where,
  order: Order,
  after: Place | null,
  limit: number,
): Promise<readonly RegisterRow[]> {
  const filled = after === null || after.value !== null ? await listPart(db, where, order, after, limit, 'filled') : [];
  if (filled.length >= limit || isNever(order)) return filled;
  const rest = await listPart(db, where, order, after?.value === null ? after : null, limit - filled.length, 'empty');
  return [...filled, ...rest];
}

/** Whether every record has a value in the order. */
const isNever = ({ sql }: Order): boolean => ['r.created_at', 'r.arrived_at', 'r.number'].includes(sql);

async function listPart(
  db: Queries,
  where: Where,
  { sql, type, direction }: Order,
  after: Place | null,
  limit: number,
  part: 'filled' | 'empty',
): Promise<readonly RegisterRow[]> {
  const values = [...where.values];
  const add = (value: unknown, as: string): string => `$${values.push(value)}::${as}`;
  const [way, than] = direction === 'up' ? ['asc', '>'] : ['desc', '<'];
  const isFilled = part === 'filled';
  const place = type === 'timestamptz' ? `to_char(${sql} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"')` : `(${sql})::text`;
  const from =
    after === null
      ? 'true'
      : isFilled
        ? `(${sql}, r.id) ${than} (${add(after.value, type)}, ${add(after.id, 'uuid')})`
        : `r.id ${than} ${add(after.id, 'uuid')}`;
  const { rows } = await db.query<RegisterRow>(
    `select ${RECORD_COLUMNS}, m.name as submitter, ${isFilled ? place : 'null'} as place ${FROM}
     where ${where.sql} and (${sql}) is ${isFilled ? 'not null' : 'null'} and ${from}
     order by ${isFilled ? `${sql} ${way}, ` : ''}r.id ${way} limit ${add(limit, 'int')}`,
    values,
  );
  return rows;
}

/**
 * How many records there are by stage, with the newest version that any is on, and, where the stage is null, all of them with
 * the sums of some number fields. A record's values are unpacked once for all sums: of a large record that takes longer than
 * adding up.
 */
export async function countRegister(db: Queries, where: Where, fields: readonly string[]) {
  // Keys are of letters, digits and underscores.
  const unpacked = fields.map((key) => `"${key}" text`).join(', ');
  const sums = fields.map((key) => `sum(ypomet_number(summed."${key}"))::text`).join(', ');
  const { rows } = await db.query<{ stage: string | null; version: number; count: number; sums: readonly (string | null)[] }>(
    `select r.stage, max(r.version) as version, count(*)::int as count, array[${sums}]::text[] as sums
     ${FROM} ${fields.length > 0 ? `cross join lateral jsonb_to_record(r.values) as summed(${unpacked})` : ''}
     where ${where.sql} group by grouping sets ((r.stage), ())`,
    [...where.values],
  );
  return rows;
}

export type Published = Pick<Workflow, 'key' | 'name' | 'description' | 'roles'>;

/** What the newest published version of each workflow is called, and its roles. */
export async function listPublished(db: Queries): Promise<readonly Published[]> {
  const { rows } = await db.query<Published>(
    `select w.key, v.definition ->> 'name' as name, coalesce(v.definition ->> 'description', '') as description,
       coalesce(v.definition -> 'roles', '[]') as roles
     from workflows w join versions v on v.workflow = w.key and v.number = w.published_version order by w.key limit 1000`,
  );
  return rows;
}

export async function findPublished(db: Queries, key: string): Promise<number | null> {
  const { rows } = await db.query<{ version: number | null }>(
    'select published_version as version from workflows where key = $1',
    [key],
  );
  return rows[0]?.version ?? null;
}

/** Submitters looked for one by one. */
const MOST_NAMED = 200;

/** Members and guests whose name holds a text; null for very many. */
export async function findNamed(db: Queries, find: string): Promise<readonly string[] | null> {
  if (find.trim() === '') return [];
  const lowered = loweredFor(find);
  const { rows } = await db.query<{ id: string }>(
    `select id from members where position(${lowered('$1')} in ${lowered('name')}) > 0 limit $2`,
    [find.trim().normalize('NFC'), MOST_NAMED + 1],
  );
  return rows.length > MOST_NAMED ? null : rows.map(({ id }) => id);
}

/** Members by name. */
export async function listNames(db: Queries, limit: number): Promise<readonly { readonly id: string; readonly name: string }[]> {
  const { rows } = await db.query<{ id: string; name: string }>(
    'select id, name from members where not is_guest order by name, id limit $1',
    [limit],
  );
  return rows;
}

/** A member's views of a register and those that are shared. */
export async function listViews(db: Queries, workflow: string, member: string): Promise<readonly ViewRow<RegisterSettings>[]> {
  const { rows } = await db.query<ViewRow<RegisterSettings>>(
    `select ${VIEW} from register_views v join members m on m.id = v.owner
     where v.workflow = $1 and (v.owner = $2 or v.is_shared) order by v.name, v.id limit 500`,
    [workflow, member],
  );
  return rows;
}

/** Keeps a view, unless the member has so many already. */
export async function insertView(
  db: Queries,
  workflow: string,
  owner: string,
  view: KeptView<RegisterSettings>,
  most: number,
): Promise<ViewRow<RegisterSettings> | null> {
  const { rows } = await db.query<ViewRow<RegisterSettings>>(
    `with v as (insert into register_views (workflow, owner, name, is_shared, settings)
       select $1, $2, $3, $4, $5 where (select count(*) from register_views where owner = $2) < $6 returning *)
     select ${VIEW} from v join members m on m.id = v.owner`,
    [workflow, owner, view.name, view.isShared, JSON.stringify(view.settings), most],
  );
  return rows[0] ?? null;
}

/** Records of a workflow that are counted, and how many of the newest say how long tables are. */
const MOST_RECORDS = 200_000;
const SAMPLE = 300;

/**
 * Estimates how many rows of tables a condition looks at over all records of a workflow, from the lengths of tables in the
 * newest records. `loops`: the tables that are gone through within each other, each as the SQL of its rows.
 */
export async function estimateRows(db: Queries, workflow: string, loops: readonly (readonly string[])[]): Promise<number> {
  const lengthOf = (json: string): string =>
    `case jsonb_typeof(${json}) when 'array' then jsonb_array_length(${json}) else 0 end`;
  const products = loops.map((loop) => loop.map((json) => `(${lengthOf(json)})::float8`).join(' * '));
  const { rows } = await db.query<{ looked: number | null }>(
    `select (select count(*) from (select from records where workflow = $1 limit ${MOST_RECORDS}) n)::float8 * avg(cost) as looked
     from (select ${products.join(' + ')} as cost from (select values from records where workflow = $1
       order by arrived_at desc limit ${SAMPLE}) r) s`,
    [workflow],
  );
  return rows[0]?.looked ?? 0;
}
