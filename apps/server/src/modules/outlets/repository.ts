import type { OutletSettings } from '@ypomet/contract';
import type pg from 'pg';

type Queries = Pick<pg.Pool, 'query'>;

export type OutletRow = {
  readonly key: string;
  readonly kind: OutletSettings['kind'];
  readonly name: string;
  readonly settings: OutletSettings;
  readonly secret: string | null;
  readonly changedAt: string;
};
export type ListedOutlet = OutletRow & { readonly waiting: number; readonly queued: number; readonly usedBy: readonly string[] };

const COLUMNS = `o.key, o.kind, o.name, o.settings, o.secret, o.changed_at::text as "changedAt"`;
/** Whether the newest version of a workflow names an outlet. */
const USED_BY = `array(select v.definition ->> 'name' from workflows w join versions v on v.workflow = w.key and v.number = w.published_version
  where v.definition::text like '%"outlet":"' || o.key || '"%' or v.definition::text like '%"outlet": "' || o.key || '"%' order by 1)`;

export async function listOutlets(db: Queries): Promise<readonly ListedOutlet[]> {
  const { rows } = await db.query<ListedOutlet>(
    `select ${COLUMNS}, ${USED_BY} as "usedBy",
       (select count(*)::int from deliveries d where d.outlet = o.key and d.status = 'waiting') as waiting,
       (select count(*)::int from deliveries d where d.outlet = o.key and d.status = 'queued') as queued
     from outlets o order by o.kind, o.name, o.key`,
  );
  return rows;
}

export async function findOutlet(db: Queries, key: string): Promise<OutletRow | null> {
  const { rows } = await db.query<OutletRow>({
    name: 'find-outlet',
    text: `select ${COLUMNS} from outlets o where o.key = $1`,
    values: [key],
  });
  return rows[0] ?? null;
}

export const listKinds = async (db: Queries): Promise<ReadonlyMap<string, OutletSettings['kind']>> => {
  const { rows } = await db.query<{ key: string; kind: OutletSettings['kind'] }>('select key, kind from outlets');
  return new Map(rows.map(({ key, kind }) => [key, kind]));
};

/** Writes an outlet; false where another kind has its key. `secret`: undefined leaves the one that is there. */
export async function writeOutlet(
  db: Queries,
  { key, name, settings, secret }: Pick<OutletRow, 'key' | 'name' | 'settings'> & { readonly secret: string | null | undefined },
): Promise<boolean> {
  const { rowCount } = await db.query(
    `insert into outlets as o (key, kind, name, settings, secret) values ($1, $2, $3, $4, $5)
     on conflict (key) do update set name = $3, settings = $4, changed_at = clock_timestamp(),
       secret = case when $6 then $5 else o.secret end
     where o.kind = $2`,
    [key, settings.kind, name, JSON.stringify(settings), secret ?? null, secret !== undefined],
  );
  return rowCount === 1;
}

/** Adds an outlet unless there is one under its key. */
export const addOutlet = (
  db: Queries,
  { key, name, settings, secret }: Pick<OutletRow, 'key' | 'name' | 'settings' | 'secret'>,
) =>
  db.query('insert into outlets (key, kind, name, settings, secret) values ($1, $2, $3, $4, $5) on conflict do nothing', [
    key,
    settings.kind,
    name,
    JSON.stringify(settings),
    secret,
  ]);

/** Takes an outlet away; false where something still needs it. */
export async function deleteOutlet(db: Queries, key: string): Promise<boolean> {
  const { rowCount } = await db.query(
    `delete from outlets o where o.key = $1 and cardinality(${USED_BY}) = 0
       and not exists (select 1 from deliveries d where d.outlet = o.key and d.status <> 'sent')`,
    [key],
  );
  return rowCount === 1;
}

export async function listSealed(db: Queries): Promise<readonly { readonly key: string; readonly secret: string }[]> {
  const { rows } = await db.query<{ key: string; secret: string }>('select key, secret from outlets where secret is not null');
  return rows;
}

export const resealSecret = (db: Queries, key: string, before: string, after: string): Promise<unknown> =>
  db.query('update outlets set secret = $3 where key = $1 and secret = $2', [key, before, after]);
