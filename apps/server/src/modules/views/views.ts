import type { Actor } from '@ypomet/core';
import type { Queries } from '../records/repository.ts';

/** A way to look at a list that somebody keeps under a name; `S`: what it narrows the list to, and how it lays it out. */
export type KeptView<S> = { readonly name: string; readonly isShared: boolean; readonly settings: S };
export type ViewRow<S> = KeptView<S> & { readonly id: string; readonly ownerId: string; readonly owner: string };

/** Where views are kept: those of registers, and those of the desk. */
type Table = 'register_views' | 'desk_views';

/** The columns of a view `v` with its owner `m`. */
export const VIEW = `v.id, v.name, v.is_shared as "isShared", v.owner as "ownerId", m.name as owner, v.settings`;

/** Changes a view of the owner's; null where there is none. */
export async function updateView<S>(
  db: Queries,
  table: Table,
  id: string,
  owner: string,
  view: KeptView<S>,
): Promise<ViewRow<S> | null> {
  const { rows } = await db.query<ViewRow<S>>(
    `with v as (update ${table} set name = $3, is_shared = $4, settings = $5, changed_at = now() where id = $1 and owner = $2 returning *)
     select ${VIEW} from v join members m on m.id = v.owner`,
    [id, owner, view.name, view.isShared, JSON.stringify(view.settings)],
  );
  return rows[0] ?? null;
}

/** Whether there was a view of the owner's to delete. */
export async function deleteView(db: Queries, table: Table, id: string, owner: string): Promise<boolean> {
  const { rowCount } = await db.query(`delete from ${table} where id = $1 and owner = $2`, [id, owner]);
  return (rowCount ?? 0) > 0;
}

/** A view as somebody gets it. */
export const toView = <S>({ id, name, isShared, owner, ownerId, settings }: ViewRow<S>, actor: Actor) => ({
  id,
  name,
  isShared,
  isOwn: ownerId === actor.id,
  owner,
  settings,
});
