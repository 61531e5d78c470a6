import type { AcceptedWarning, DraftEditEntry, WorkflowSummary } from '@ypomet/contract';
import type { Edit, openingsOf, Stage } from '@ypomet/core';
import type pg from 'pg';

export type Queries = Pick<pg.Pool, 'query'>;

/** A draft as the database has it. Definitions go through as text: only who looks into one reads it. */
export type DraftRow = {
  readonly key: string;
  readonly definition: string;
  readonly revision: number;
  readonly publishedVersion: number | null;
  readonly publishedRevision: number | null;
};

const DRAFT = `key, definition::text as definition, revision, published_version as "publishedVersion", published_revision as "publishedRevision"`;

export async function findDraft(db: Queries, key: string): Promise<DraftRow | null> {
  const { rows } = await db.query<DraftRow>({
    name: 'find-draft',
    text: `select ${DRAFT} from workflows where key = $1`,
    values: [key],
  });
  return rows[0] ?? null;
}

/** The version that records begin on; null when there is none or it is put away, undefined when there is no such workflow. */
export async function findPublished(db: Queries, key: string): Promise<number | null | undefined> {
  const { rows } = await db.query<{ version: number | null }>({
    name: 'find-published',
    text: 'select case when archived_at is null then published_version end as version from workflows where key = $1',
    values: [key],
  });
  return rows[0]?.version;
}

/** The newest version's number, also of a workflow that is put away: what is opened from elsewhere is never lost. */
export async function findNewestVersion(db: Queries, key: string): Promise<number | null> {
  const { rows } = await db.query<{ version: number | null }>({
    name: 'find-newest-version',
    text: 'select published_version as version from workflows where key = $1',
    values: [key],
  });
  return rows[0]?.version ?? null;
}

export type ListedWorkflow = Omit<
  WorkflowSummary,
  'draftRevision' | 'draftChangedAt' | 'draftDiffers' | 'recordsOpen' | 'here'
> & {
  readonly revision: number;
  readonly changedAt: string;
  readonly publishedRevision: number | null;
};

/** Workflows with their little maps: stages in the order of the draft, and the records that wait at each. */
export async function listWorkflows(db: Queries, find: string): Promise<readonly ListedWorkflow[]> {
  const { rows } = await db.query<ListedWorkflow>(
    `select w.key, w.definition ->> 'name' as name, coalesce(w.definition ->> 'description', '') as description, w.revision,
       to_char(w.changed_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as "changedAt",
       to_char(w.archived_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as "archivedAt",
       w.published_version as "publishedVersion", w.published_revision as "publishedRevision",
       json_array_length(w.definition -> 'fields') as fields,
       (select coalesce(jsonb_agg(distinct jsonb_build_object('from', h ->> 'from', 'workflow', f ->> 'workflow', 'handOff', f ->> 'handOff')), '[]')
          from json_array_elements(coalesce(w.definition -> 'handOffs', '[]')) h, json_array_elements(coalesce(h -> 'followUps', '[]')) f) as opens,
       (select coalesce(json_agg(json_build_object('key', t ->> 'key', 'name', t ->> 'name')), '[]') from json_array_elements(w.definition -> 'tracks') t) as tracks,
       (select coalesce(json_agg(json_build_object('key', s ->> 'key', 'name', s ->> 'name', 'kind', s ->> 'kind', 'tracks', s -> 'tracks',
           'waiting', coalesce((o.waiting ->> (s ->> 'key'))::int, 0))), '[]') from json_array_elements(w.definition -> 'stages') s) as stages,
       case when m.id is not null then json_build_object('id', m.id, 'name', m.name) end as owner,
       (select m2.name from draft_edits e join members m2 on m2.id = e.by where e.workflow = w.key
          order by e.revision desc, e.position desc limit 1) as "changedBy"
     from workflows w left join members m on m.id = w.owner left join (
       select workflow, json_object_agg(stage, count) as waiting from (
         select workflow, stage, count(*) as count from records where stage_kind <> 'end' group by workflow, stage) g group by workflow) o on o.workflow = w.key
     where $1 = '' or position(lower($1) in lower(w.definition::text)) > 0
     order by lower(w.definition ->> 'name') limit 2000`,
    [find],
  );
  return rows;
}

/** Changes what is said of a workflow beside its definition; false when there is none. */
export async function changeWorkflow(
  db: Queries,
  key: string,
  change: { readonly owner?: string | null | undefined; readonly isArchived?: boolean | undefined },
): Promise<boolean> {
  const { rowCount } = await db.query(
    `update workflows set owner = case when $2 then $3::uuid else owner end,
       archived_at = case when $4::boolean is null then archived_at when $4 then coalesce(archived_at, now()) end where key = $1`,
    [key, change.owner !== undefined, change.owner ?? null, change.isArchived ?? null],
  );
  return rowCount === 1;
}

/** What takes back the edits since a revision, the last one's first; at most so many. */
export async function listInverses(db: Queries, key: string, revision: number, limit: number): Promise<readonly string[]> {
  const { rows } = await db.query<{ inverse: string }>(
    'select inverse::text as inverse from draft_edits where workflow = $1 and revision > $2 order by revision desc, position desc limit $3',
    [key, revision, limit],
  );
  return rows.map(({ inverse }) => inverse);
}

/** Inserts a workflow; false when its key is taken. */
export async function insertWorkflow(db: Queries, key: string, definition: string, owner: string): Promise<boolean> {
  const { rowCount } = await db.query(
    'insert into workflows (key, definition, owner) values ($1, $2, $3) on conflict do nothing',
    [key, definition, owner],
  );
  return rowCount === 1;
}

/** Stores a draft's next revision with the edits that led to it, whole or not at all; false when its revision is stale. */
export async function updateDraft(
  db: Queries,
  change: {
    readonly key: string;
    readonly revision: number;
    readonly definition: string;
    /** A JSON array of `{id, edit, inverse, sentence}`. */
    readonly applied: string;
    readonly by: string;
  },
): Promise<boolean> {
  const { rows } = await db.query<{ changed: number }>(
    `with changed as (
       update workflows set definition = $3, revision = revision + 1, changed_at = now() where key = $1 and revision = $2 returning key, revision
     ), noted as (
       insert into draft_edits (workflow, revision, position, id, edit, inverse, sentence, by)
       select c.key, c.revision, e.ordinality - 1, (e.value ->> 'id')::uuid, e.value -> 'edit', e.value -> 'inverse', e.value -> 'sentence', $5
       from changed c, jsonb_array_elements($4::jsonb) with ordinality e
     ), told as (
       select pg_notify('drafts', json_build_object('key', c.key, 'event', json_build_object('type', 'changed', 'revision', c.revision, 'by', m.name))::text)
       from changed c join members m on m.id = $5
     ) select count(*)::int as changed, (select count(*) from told) from changed`,
    [change.key, change.revision, change.definition, change.applied, change.by],
  );
  return rows[0]?.changed === 1;
}

export type DraftEditRow = Omit<DraftEditEntry, 'renames'> & { readonly position: number; readonly renaming: Edit | null };

/** What was changed in a draft: newest first, before a place; with `since`, oldest first after that revision. */
export async function listDraftEdits(
  db: Queries,
  of: {
    readonly key: string;
    readonly since: number | null;
    readonly after: readonly [number, number] | null;
    readonly limit: number;
  },
): Promise<readonly DraftEditRow[]> {
  const isForward = of.since !== null;
  const { rows } = await db.query<DraftEditRow>(
    `select e.id, e.revision, e.position, m.name as by, e.sentence,
       to_char(e.at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as at,
       case when e.edit ->> 'type' in ('rename-key', 'together') then e.edit end as renaming
     from draft_edits e left join members m on m.id = e.by
     where e.workflow = $1 and e.revision > $2
       and ($3::int is null or (e.revision, e.position) ${isForward ? '>' : '<'} ($3::int, $4::int))
     order by e.revision ${isForward ? 'asc, e.position asc' : 'desc, e.position desc'} limit $5`,
    [of.key, of.since ?? -1, of.after?.[0] ?? null, of.after?.[1] ?? null, of.limit],
  );
  return rows;
}

export type NewVersion = {
  readonly key: string;
  readonly revision: number;
  /** Versions of other workflows that it refers to, by workflow. */
  readonly refersTo: Readonly<Record<string, number>>;
  /** Workflows that it refers to and that are published in the same step. */
  readonly along: readonly string[];
  readonly accepted: readonly AcceptedWarning[];
  readonly notes: string;
  readonly by: string;
};

/**
 * Publishes revisions of drafts, each as the next version of its workflow: their numbers, by workflow. A revision that is
 * published already has its number. Null when any of the revisions is stale. `db` is within a transaction.
 */
export async function insertVersions(db: Queries, versions: readonly NewVersion[]): Promise<ReadonlyMap<string, number> | null> {
  // The rows are locked in the order of their keys, so that two publications of the same workflows can't deadlock. Once it has
  // the locks, this transaction reads what the publication before it wrote.
  const keys = versions.map(({ key }) => key).sort();
  await db.query('select 1 from workflows where key = any($1) order by key for update', [keys]);
  const { rows } = await db.query<{ key: string; number: number }>(
    `select w.key, case when w.published_revision = w.revision then w.published_version else coalesce(w.published_version, 0) + 1 end as number
     from workflows w join unnest($1::text[], $2::int[]) as asked (key, revision) on asked.key = w.key and asked.revision = w.revision`,
    [versions.map(({ key }) => key), versions.map(({ revision }) => revision)],
  );
  const numbers = new Map(rows.map(({ key, number }) => [key, number]));
  if (numbers.size < versions.length) return null;
  for (const version of versions) {
    const along = version.along.flatMap((key): [string, number][] => [[key, numbers.get(key) as number]]);
    await db.query(
      `with raised as (
         update workflows set published_version = coalesce(published_version, 0) + 1, published_revision = revision
         where key = $1 and revision = $2 and published_revision is distinct from revision returning key, published_version, definition
       ) insert into versions (workflow, number, definition, published_by, refers_to, accepted, notes)
         select key, published_version, definition, $3, $4, $5, $6 from raised`,
      [
        version.key,
        version.revision,
        version.by,
        JSON.stringify({ ...version.refersTo, ...Object.fromEntries(along) }),
        JSON.stringify(version.accepted),
        version.notes,
      ],
    );
  }
  return numbers;
}

export type VersionRow = {
  readonly number: number;
  readonly publishedAt: string;
  readonly publishedBy: string;
  readonly recordsOpen: number;
  readonly notes: string;
};

export async function listVersions(db: Queries, key: string): Promise<readonly VersionRow[]> {
  const { rows } = await db.query<VersionRow>(
    `select v.number, to_char(v.published_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as "publishedAt",
       coalesce(m.name, '') as "publishedBy", v.notes,
       (select count(*)::int from records r where r.workflow = v.workflow and r.version = v.number and r.stage_kind <> 'end') as "recordsOpen"
     from versions v left join members m on m.id = v.published_by where v.workflow = $1 order by v.number desc limit 1000`,
    [key],
  );
  return rows;
}

export type PublishedDefinition = { readonly definition: string; readonly refersTo: Readonly<Record<string, number>> };

export async function findVersion(db: Queries, key: string, number: number): Promise<PublishedDefinition | null> {
  const { rows } = await db.query<PublishedDefinition>({
    name: 'find-version',
    text: 'select definition::text as definition, refers_to as "refersTo" from versions where workflow = $1 and number = $2',
    values: [key, number],
  });
  return rows[0] ?? null;
}

export type NewestVersion = { readonly key: string; readonly number: number; readonly definition: string };

/** The newest versions of some workflows. */
export async function findNewest(db: Queries, keys: readonly string[]): Promise<readonly NewestVersion[]> {
  const { rows } = await db.query<NewestVersion>(
    `select w.key, v.number, v.definition::text as definition from workflows w
     join versions v on v.workflow = w.key and v.number = w.published_version where w.key = any($1)`,
    [keys],
  );
  return rows;
}

/** The parts of every workflow's newest version that say what it opens elsewhere, for `openingsOf`. */
export async function listOpeningParts(db: Queries): Promise<readonly Parameters<typeof openingsOf>[0][]> {
  const { rows } = await db.query<Parameters<typeof openingsOf>[0]>(
    `select w.key, coalesce(v.definition ->> 'name', w.key) as name,
       (select coalesce(json_agg(json_build_object('key', h -> 'key', 'followUps', (
          select coalesce(json_agg(json_build_object('key', f -> 'key', 'workflow', f -> 'workflow', 'handOff', f -> 'handOff', 'perRow', f -> 'perRow')), '[]')
          from json_array_elements(h -> 'followUps') f))), '[]')
        from json_array_elements(v.definition -> 'handOffs') h where json_array_length(coalesce(h -> 'followUps', '[]')) > 0) as "handOffs",
       (select coalesce(json_agg(json_build_object('key', f -> 'key', 'maxRows', f -> 'maxRows')), '[]')
        from json_array_elements(v.definition -> 'fields') f where f ->> 'type' = 'table') as fields
     from workflows w join versions v on v.workflow = w.key and v.number = w.published_version limit 2000`,
  );
  return rows;
}

export type Intake = {
  readonly key: string;
  readonly name: string;
  readonly description: string;
  readonly stage: Pick<Stage, 'key' | 'kind' | 'roles'>;
};

/** The intake stages of every workflow's newest version. */
export async function listIntakes(db: Queries): Promise<readonly Intake[]> {
  const { rows } = await db.query<Intake>(
    `select w.key, v.definition ->> 'name' as name, coalesce(v.definition ->> 'description', '') as description,
       json_build_object('key', s.value ->> 'key', 'kind', 'intake', 'roles', s.value -> 'roles') as stage
     from workflows w join versions v on v.workflow = w.key and v.number = w.published_version,
       json_array_elements(v.definition -> 'stages') s where s.value ->> 'kind' = 'intake' and w.archived_at is null order by w.key limit 1000`,
  );
  return rows;
}

/** Which of these ids are members. */
export async function findMemberIds(db: Queries, ids: readonly string[]): Promise<ReadonlySet<string>> {
  if (ids.length === 0) return new Set();
  const { rows } = await db.query<{ id: string }>('select id::text from members where not is_guest and id::text = any($1)', [
    ids,
  ]);
  return new Set(rows.map(({ id }) => id));
}
