import { type AcceptedWarning, type DraftEditPage, SERVER_EN, type VersionSummary, type WorkflowSummary } from '@ypomet/contract';
import { type Diagnostic, diagnostic, renamesIn, term } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { inTransaction, isUniqueViolation } from '../../db/database.ts';
import { Made } from '../../plugins/contract.ts';
import { ProblemError, toDetails } from '../../problem.ts';
import { listKinds } from '../outlets/repository.ts';
import {
  changeWorkflow,
  type DraftRow,
  findDraft,
  findMemberIds,
  findNewest,
  findVersion,
  insertVersion,
  insertWorkflow,
  listDraftEdits,
  listInverses,
  listVersions,
  listWorkflows,
  type NewestVersion,
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
  constructor(private readonly context: ServerContext) {}

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
    // Only renaming reads expressions, and those that read through references need to know the other workflows.
    const neighbours = edits.includes('"rename-key"') ? await this.neighbourTexts(row.definition) : {};
    return this.store(row, await this.definitions.run('edit', row.definition, edits, neighbours), by);
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

  private async neighbourTexts(definition: string): Promise<Readonly<Record<string, string>>> {
    const { keys } = await this.definitions.run('refersTo', definition);
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

  /** The newest definitions of the workflows a draft refers to. */
  async neighbours(key: string): Promise<Made> {
    const { definition } = await this.row(key);
    const { keys } = await this.definitions.run('refersTo', definition);
    const newest = await findNewest(this.pool, keys);
    return new Made(`[${newest.map((one) => one.definition).join(',')}]`);
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

  /**
   * Publishes the draft. Faults stand in the way, and warnings that nobody accepted; the version is immutable from then on,
   * and so are the versions of other workflows that it refers to. The same revision is published once. `alongside`: workflows
   * that are published next, by whose drafts it goes until they are: those that refer to each other have no other beginning.
   */
  async publish(
    key: string,
    revision: number,
    { accepted, notes }: { readonly accepted: readonly AcceptedWarning[]; readonly notes: string },
    by: string,
    alongside: readonly string[] = [],
  ): Promise<VersionSummary> {
    const row = await this.rowAt(key, revision);
    const { keys } = await this.definitions.run('refersTo', row.definition);
    const newest = await this.neighboursOf(
      keys.filter((one) => one !== key),
      alongside,
    );
    const neighbours = Object.fromEntries(newest.map((one) => [one.key, one.definition]));
    const outlets = [...(await listKinds(this.pool))];
    const checked = await this.definitions.run('check', row.definition, neighbours, {
      outlets,
      nextPages: this.context.workspace.nextPages,
    });
    const faults = [...checked.faults, ...checked.strangers, ...(await this.strangers(checked.members))];
    if (faults.length > 0) throw new ProblemError('workflow/invalid', { details: toDetails(faults) });
    const isAccepted = ({ code, path }: Diagnostic): boolean => accepted.some((one) => one.code === code && one.path === path);
    const open = checked.warnings.filter((one) => !isAccepted(one));
    if (open.length > 0) throw new ProblemError('workflow/warnings', { details: toDetails(open) });
    const kept = accepted.filter((one) => checked.warnings.some(({ code, path }) => one.code === code && one.path === path));
    const number = await inTransaction(this.pool, (client) => {
      const refersTo = Object.fromEntries(newest.map((one) => [one.key, one.number]));
      return insertVersion(client, { key, revision, refersTo, accepted: kept, notes, by });
    });
    if (number === null) throw new ProblemError('revision/stale');
    const summary = (await this.versions(key)).find((version) => version.number === number);
    if (!summary) throw new Error(`version ${number} of ${key} is gone`);
    return summary;
  }

  /** The newest versions of workflows; of those that are published alongside and never were, the drafts, as version 1. */
  private async neighboursOf(keys: readonly string[], alongside: readonly string[]): Promise<readonly NewestVersion[]> {
    const newest = await findNewest(this.pool, keys);
    const drafts: NewestVersion[] = [];
    for (const key of keys.filter((one) => alongside.includes(one) && !newest.some((own) => own.key === one))) {
      const draft = await findDraft(this.pool, key);
      if (draft) drafts.push({ key, number: 1, definition: draft.definition });
    }
    return [...newest, ...drafts];
  }

  /** Assignments to members who don't exist. */
  private async strangers(named: readonly { readonly id: string; readonly path: string }[]): Promise<readonly Diagnostic[]> {
    const known = await findMemberIds(
      this.pool,
      named.map(({ id }) => id),
    );
    return named
      .filter(({ id }) => !known.has(id))
      .map(({ id, path }) => diagnostic('workflow/unknown-key', path, { key: id, what: term('part/member') }));
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
