import type { UnfinishedContent, UnfinishedForm, UnfinishedSummary } from '@ypomet/contract';
import { UNFINISHED_LIMITS } from '@ypomet/contract';
import { ProblemError } from '../../problem.ts';
import type { Queries } from '../records/repository.ts';

const AT = `to_char(changed_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as at`;

/** A member's unfinished forms, the latest first; without those of records that nobody has to do anything with any more. */
export async function listUnfinished(db: Queries, member: string): Promise<UnfinishedSummary[]> {
  const { rows } = await db.query<UnfinishedSummary>(
    `select place, title, ${AT} from unfinished_forms f where member = $1
       and not exists (select 1 from records r where f.place = 'record.' || r.id and r.stage_kind = 'end')
       order by changed_at desc, place limit $2`,
    [member, UNFINISHED_LIMITS.count],
  );
  return rows;
}

/** What a member entered in a form; null when there is nothing. */
export async function findUnfinished(db: Queries, member: string, place: string): Promise<Omit<UnfinishedForm, 'names'> | null> {
  const { rows } = await db.query<{ content: UnfinishedContent; revision: number; at: string }>(
    `select content, revision, ${AT} from unfinished_forms where member = $1 and place = $2`,
    [member, place],
  );
  const [row] = rows;
  return row ? { ...row.content, revision: row.revision, at: row.at } : null;
}

type Kept = { readonly member: string; readonly place: string; readonly title: string; readonly content: UnfinishedContent };

/**
 * Keeps what a member entered on top of what they had at a revision, 0 for nothing; the new revision. Refuses with
 * `revision/stale` when another window kept something since, and with `unfinished/too-many`.
 */
export async function keepUnfinished(db: Queries, { member, place, title, content }: Kept, revision: number): Promise<number> {
  const text = JSON.stringify(content);
  const bytes = Buffer.byteLength(text);
  const { rows: others } = await db.query<{ count: number; bytes: number }>(
    `select count(*)::int as count, coalesce(sum(bytes), 0)::float8 as bytes
       from unfinished_forms where member = $1 and place <> $2`,
    [member, place],
  );
  const { count, bytes: sum } = others[0] ?? { count: 0, bytes: 0 };
  if (count >= UNFINISHED_LIMITS.count || sum + bytes > UNFINISHED_LIMITS.bytes) throw new ProblemError('unfinished/too-many');
  const { rows } = await db.query<{ revision: number }>(
    revision === 0
      ? `insert into unfinished_forms (member, place, title, content, bytes, revision) values ($1, $2, $3, $4, $5, 1)
           on conflict (member, place) do nothing returning revision`
      : `update unfinished_forms set title = $3, content = $4, bytes = $5, revision = revision + 1, changed_at = now()
           where member = $1 and place = $2 and revision = $6 returning revision`,
    [member, place, title, text, bytes, ...(revision === 0 ? [] : [revision])],
  );
  const [kept] = rows;
  if (!kept) throw new ProblemError('revision/stale');
  return kept.revision;
}

/** Forgets what a member entered in a form. */
export async function forgetUnfinished(db: Queries, member: string, place: string): Promise<void> {
  await db.query('delete from unfinished_forms where member = $1 and place = $2', [member, place]);
}
