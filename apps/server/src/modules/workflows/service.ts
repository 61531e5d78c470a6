import { type DraftEditPage, type Publication, SERVER_EN, type VersionSummary, type WorkflowSummary } from '@ypomet/contract';
import { openingsOf, renamesIn } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { isUniqueViolation } from '../../db/database.ts';
import { Made } from '../../plugins/contract.ts';
import { ProblemError } from '../../problem.ts';
import { PublicationService, type ToPublish } from './publication.ts';
import {
  changeWorkflow,
  type DraftRow,
  findDraft,
  findMemberIds,
  findNewest,
  findVersion,
  insertWorkflow,
  listDraftEdits,
  listInverses,
  listOpeningParts,
  listVersions,
  listWorkflows,
  updateDraft,
} from './repository.ts';

const differs = (row: Pick<DraftRow, 'revision' | 'publishedRevision'>): boolean =>
  row.publishedRevision === null || row.revision !== row.publishedRevision;

/** JSON around a definition's text, which is not read for that. */
const withDefinition = (definition: string, rest: object): Made =>
  new Made(`{"definition":${definition},${JSON.stringify(rest).slice(1)}`);

/** Edits that are taken back at most to show a draft as it was. */
const MAX_BACK = 5000;

/** A draft as its document, and its revision. */
export type Draft = { readonly document: Made; readonly revision: number; readonly differs: boolean };

/**
 * Drafts and versions. Every change names the revision it was made on; a stale one changes nothing. Definitions are read,
 * edited and compiled by the definition pool, never here.
 */
export class WorkflowService {
  private readonly publication: PublicationService;

  constructor(private readonly context: ServerContext) {
    this.publication = new PublicationService(context);
  }

  private get pool() {
    return this.context.database.pool;
  }

  private get definitions() {
    return this.context.definitions;
  }

  /** `find`: a text that the draft must hold somewhere, in whatever case; empty for all. */
  async list(find: string): Promise<WorkflowSummary[]> {
    const [rows, here] = await Promise.all([listWorkflows(this.pool, find), this.context.watch.whoIsWhere()]);
    return rows.map(({ revision, changedAt, publishedRevision, ...row }) => ({
      ...row,
      here: here(row.key),
      draftRevision: revision,
      draftChangedAt: changedAt,
      draftDiffers: differs({ revision, publishedRevision }),
      recordsOpen: row.stages.reduce((sum, { waiting }) => sum + waiting, 0),
    }));
  }

  async draft(key: string): Promise<Draft> {
    return toDraft(await this.row(key));
  }

  /** A new workflow from a definition's text; whoever makes it answers for it. */
  async create(text: string, by: string): Promise<Draft> {
    const { definition, key } = await this.definitions.run('read', text);
    if (!(await insertWorkflow(this.pool, key, definition, by))) throw new ProblemError('workflow/exists', { path: 'key' });
    return this.draft(key);
  }

  /** Applies edits in order, all or none. `edits`: the request's text. */
  async edit(key: string, revision: number, edits: string, by: string): Promise<Draft> {
    const row = await this.rowAt(key, revision);
    const edited = await this.definitions.run('edit', row.definition, edits, null);
    if (!('asksFor' in edited)) return this.store(row, edited, by);
    const neighbours = await this.neighbourTexts(edited.asksFor);
    const again = await this.definitions.run('edit', row.definition, edits, neighbours);
    if ('asksFor' in again) throw new Error('edits asked for their neighbours twice');
    return this.store(row, again, by);
  }

  /** What was changed in the draft, a page at a time. `after`: where the page before ended, `revision.position`. */
  async edits(key: string, since: number | null, after: string | undefined, limit: number): Promise<DraftEditPage> {
    await this.row(key);
    const place = /^(\d{1,9})\.(\d{1,9})$/.exec(after ?? '');
    if (after !== undefined && !place) throw new ProblemError('request/invalid', { path: 'query.after' });
    const from = place ? ([Number(place[1]), Number(place[2])] as const) : null;
    const rows = await listDraftEdits(this.pool, { key, since, after: from, limit });
    const last = rows.length === limit ? rows.at(-1) : undefined;
    return {
      entries: rows.map(({ position: _, renaming, ...row }) => ({
        ...row,
        renames: renaming ? renamesIn([renaming]).map(({ part, key: renamed }) => ({ part, key: renamed })) : [],
      })),
      next: last ? `${last.revision}.${last.position}` : null,
    };
  }

  private async neighbourTexts(keys: readonly string[]): Promise<Readonly<Record<string, string>>> {
    return Object.fromEntries((await findNewest(this.pool, keys)).map((one) => [one.key, one.definition]));
  }

  async replace(key: string, revision: number, text: string, by: string): Promise<Draft> {
    const row = await this.rowAt(key, revision);
    return this.store(row, await this.definitions.run('replace', row.definition, text), by);
  }

  async export(key: string): Promise<string> {
    const { definition } = await this.row(key);
    return (await this.definitions.run('write', definition)).text;
  }

  /**
   * The workflows a draft refers to: the newest version of each, or the draft of one that was never published; and what all
   * published workflows open elsewhere.
   */
  async neighbours(key: string): Promise<Made> {
    const { definition } = await this.row(key);
    const { keys } = await this.definitions.run('refersTo', definition);
    const newest = await findNewest(this.pool, keys);
    const unpublished = await Promise.all(
      keys.filter((one) => one !== key && !newest.some((own) => own.key === one)).map((one) => findDraft(this.pool, one)),
    );
    const drafts = unpublished.filter((one) => one !== null);
    const workflows = [...newest, ...drafts].map((one) => one.definition).join(',');
    const openings = (await listOpeningParts(this.pool)).map(openingsOf);
    for (const one of drafts) openings.push((await this.definitions.run('refersTo', one.definition)).openings);
    return new Made(
      `{"workflows":[${workflows}],"drafts":${JSON.stringify(drafts.map((one) => one.key))},"openings":${JSON.stringify(openings)}}`,
    );
  }

  /** The draft as it was after a revision. */
  async at(key: string, revision: number): Promise<Made> {
    const row = await this.row(key);
    if (revision > row.revision) throw new ProblemError('thing/not-found');
    const inverses = await listInverses(this.pool, key, revision, MAX_BACK + 1);
    if (inverses.length > MAX_BACK) {
      const detail = SERVER_EN.details['too-far-back'].replace('{limit}', String(MAX_BACK));
      throw new ProblemError('request/invalid', { path: 'revision', detail });
    }
    const { definition } = await this.definitions.run('back', row.definition, `[${inverses.join(',')}]`);
    return withDefinition(definition, { revision });
  }

  /** Names who answers for a workflow, or puts it away. */
  async change(key: string, change: { readonly owner?: string | null | undefined; readonly isArchived?: boolean | undefined }) {
    if (change.owner && !(await findMemberIds(this.pool, [change.owner])).has(change.owner))
      throw new ProblemError('request/invalid', { path: 'owner' });
    if (!(await changeWorkflow(this.pool, key, change))) throw new ProblemError('thing/not-found');
    return null;
  }

  async versions(key: string): Promise<VersionSummary[]> {
    return [...(await listVersions(this.pool, key))];
  }

  async version(key: string, number: number): Promise<Made> {
    const found = (await listVersions(this.pool, key)).find((row) => row.number === number);
    const version = found && (await findVersion(this.pool, key, number));
    if (!found || !version) throw new ProblemError('thing/not-found');
    return withDefinition(version.definition, found);
  }

  /** Says what publishing the draft takes: see `PublicationService.check`. */
  checkPublication(key: string, along: readonly string[]): Promise<Publication> {
    return this.publication.check(key, along);
  }

  /** Publishes the draft, with others in the same step: see `PublicationService.publish`. The summary is of the first. */
  async publish(list: readonly [ToPublish, ...ToPublish[]], notes: string, by: string): Promise<VersionSummary> {
    const numbers = await this.publication.publish(list, notes, by);
    const [{ key }] = list;
    const summary = (await this.versions(key)).find((version) => version.number === numbers.get(key));
    if (!summary) throw new Error(`the version of ${key} is gone`);
    return summary;
  }

  private async row(key: string): Promise<DraftRow> {
    const row = await findDraft(this.pool, key);
    if (!row) throw new ProblemError('thing/not-found');
    return row;
  }

  private async rowAt(key: string, revision: number): Promise<DraftRow> {
    const row = await this.row(key);
    if (row.revision !== revision) throw new ProblemError('revision/stale', { path: `revision ${row.revision}` });
    return row;
  }

  private async store(
    row: DraftRow,
    change: { readonly definition: string; readonly applied: string },
    by: string,
  ): Promise<Draft> {
    try {
      const isStored = await updateDraft(this.pool, { ...change, key: row.key, revision: row.revision, by });
      if (!isStored) throw new ProblemError('revision/stale');
    } catch (error) {
      // An edit that was made before: whoever sends it again doesn't know of a revision that has it.
      if (isUniqueViolation(error)) throw new ProblemError('revision/stale');
      throw error;
    }
    return toDraft({ ...row, definition: change.definition, revision: row.revision + 1 });
  }
}

const toDraft = (row: DraftRow): Draft => ({
  document: withDefinition(row.definition, {
    revision: row.revision,
    publishedVersion: row.publishedVersion,
    differs: differs(row),
  }),
  revision: row.revision,
  differs: differs(row),
});
