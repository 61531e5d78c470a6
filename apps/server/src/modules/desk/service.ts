import {
  type DeskEntry,
  type DeskSettings,
  type DeskView,
  type QueryOf,
  type RegisterDocument,
  type ResponseOf,
  SERVER_EN,
} from '@ypomet/contract';
import { type Actor, mayBegin, projectDesk, type Register, type Stage } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { decodeCursor, encodeCursor } from '../../paging.ts';
import { ProblemError } from '../../problem.ts';
import { aboutEach } from '../records/about.ts';
import { nowOf, toHeader } from '../records/present.ts';
import type { ListedRow } from '../records/record-row.ts';
import type { Queries } from '../records/repository.ts';
import { estimateOf, type Searched, whereOf } from '../registers/narrowing.ts';
import { findNamed, type Where } from '../registers/repository.ts';
import { describeRegister, MAX_VIEWS } from '../registers/service.ts';
import { deleteView, type KeptView, toView, updateView } from '../views/views.ts';
import { findNewestVersion, listIntakes } from '../workflows/repository.ts';
import { listReadings } from './readings.ts';
import { countWaiting, insertView, listSubmitted, listViews, listWaiting, whereNamed } from './repository.ts';

type Page = { readonly after?: string | undefined; readonly limit: number };
type DeskPageOf = Omit<QueryOf<'desk'>, keyof Page> & Page;
type ViewRequest = KeptView<DeskSettings>;

/** What waits for a member, what they submitted, what they may begin, and how they look at it. */
export class Desk {
  constructor(private readonly context: ServerContext) {}

  /** A page of what waits. Code `register/filter` for a condition that isn't one over a single workflow's records. */
  async waiting(actor: Actor, { after, limit, sort, workflow, stage, find, filter }: DeskPageOf): Promise<ResponseOf<'desk'>> {
    const where = await this.whereOf(actor, { workflow: workflow ?? null, stage: stage ?? null, find, filter });
    return this.page(
      actor,
      limit,
      (row) => row.place,
      () => {
        const list = (db: Queries) => listWaiting(db, actor, where, sort, decodeCursor(after), limit + 1);
        if (filter === '') return list(this.context.database.pool);
        return this.context.questions.ask(actor.id, list, estimateOf(where, workflow ?? ''));
      },
    );
  }

  /** By what the records of a workflow can be found on the desk. */
  async describe(key: string, actor: Actor): Promise<RegisterDocument> {
    return describeRegister(this.context.database.pool, await this.open(key, actor));
  }

  /** Somebody who has nothing to do with a workflow finds nothing of it: not how it is made either. */
  private async open(key: string, actor: Actor): Promise<{ readonly register: Register; readonly version: number }> {
    const version = await findNewestVersion(this.context.database.pool, key);
    const workflow = version === null ? null : await this.context.workflows.find(key, version);
    const isTheirs = workflow?.definition.stages.some(({ roles }) => roles.some((role) => actor.roles.includes(role)));
    if (version === null || !workflow || !isTheirs) throw new ProblemError('thing/not-found');
    return { register: projectDesk(workflow, actor), version };
  }

  private async whereOf(actor: Actor, { workflow, stage, find, filter }: Omit<DeskSettings, 'sort'>): Promise<Where | Searched> {
    if (filter.trim() === '') return whereNamed(workflow, stage, find);
    if (workflow === null)
      throw new ProblemError('register/filter', { path: 'query.filter', detail: SERVER_EN.details['one-workflow'] });
    const { register } = await this.open(workflow, actor);
    const moment = { now: this.context.clock(), workspace: this.context.workspace };
    const named = await findNamed(this.context.database.pool, find);
    return whereOf(register, { filter, find, stage: stage ?? undefined }, moment, named);
  }

  async views(actor: Actor): Promise<DeskView[]> {
    return (await listViews(this.context.database.pool, actor)).map((row) => toView(row, actor));
  }

  async addView(view: ViewRequest, actor: Actor): Promise<DeskView> {
    // A view that can't be applied isn't kept.
    await this.whereOf(actor, view.settings);
    const row = await insertView(this.context.database.pool, actor.id, view, MAX_VIEWS);
    if (!row)
      throw new ProblemError('register/filter', {
        detail: SERVER_EN.details['many-views'].replace('{limit}', String(MAX_VIEWS)),
      });
    return toView(row, actor);
  }

  async putView(id: string, view: ViewRequest, actor: Actor): Promise<DeskView> {
    await this.whereOf(actor, view.settings);
    const row = await updateView(this.context.database.pool, 'desk_views', id, actor.id, view);
    if (!row) throw new ProblemError('thing/not-found');
    return toView(row, actor);
  }

  async deleteView(id: string, actor: Actor): Promise<void> {
    if (!(await deleteView(this.context.database.pool, 'desk_views', id, actor.id))) throw new ProblemError('thing/not-found');
  }

  /** How much waits, by workflow and stage; versions of one workflow are counted together, under the newest names. */
  async summary(actor: Actor): Promise<ResponseOf<'deskSummary'>> {
    const now = new Date(this.context.clock()).toISOString();
    const counted = await countWaiting(this.context.database.pool, actor, now);
    const groups = new Map<string, ResponseOf<'deskSummary'>['groups'][number]>();
    for (const { workflow, version, stage, waiting, overdue } of counted) {
      const key = `${workflow} ${stage}`;
      const known = groups.get(key);
      if (known) {
        groups.set(key, { ...known, waiting: known.waiting + waiting, overdue: known.overdue + overdue });
        continue;
      }
      const definition = (await this.context.workflows.find(workflow, version))?.definition;
      const stageName = definition?.stages.find((own) => own.key === stage)?.name ?? stage;
      groups.set(key, { workflow, workflowName: definition?.name ?? workflow, stage, stageName, waiting, overdue });
    }
    return { groups: [...groups.values()] };
  }

  async submitted(actor: Actor, { after, limit }: Page): Promise<ResponseOf<'desk'>> {
    const { pool } = this.context.database;
    const page = await this.page(
      actor,
      limit,
      (row) => row.createdAt,
      () => listSubmitted(pool, actor.id, limit + 1, decodeCursor(after)),
    );
    // Who of those that have it now looks at it isn't the submitter's business.
    return { ...page, entries: page.entries.map((entry) => ({ ...entry, openedBy: null })) };
  }

  async intakes(actor: Actor): Promise<ResponseOf<'intakes'>> {
    const found = await listIntakes(this.context.database.pool);
    return found
      .filter(({ stage }) => mayBegin(stage as Stage, actor))
      .map(({ key, name, description, stage }) => ({ workflow: key, stage: stage.key, name, description }));
  }

  private async page<Row extends ListedRow>(
    actor: Actor,
    limit: number,
    at: (row: Row) => string,
    list: () => Promise<readonly Row[]>,
  ): Promise<ResponseOf<'desk'>> {
    const rows = await list();
    const shown = rows.slice(0, limit);
    const readings = await listReadings(
      this.context.database.pool,
      actor.id,
      shown.map(({ id }) => id),
    );
    const about = await aboutEach(this.context, shown, actor);
    const entries: DeskEntry[] = [];
    for (const row of shown) {
      const read = readings.get(row.id);
      const workflow = await this.context.workflows.find(row.workflow, row.version);
      if (!workflow) continue;
      entries.push({
        record: toHeader(row, workflow, nowOf(this.context)),
        about: about.get(row.id) ?? '',
        submitter: row.submitter,
        isUnread: (read?.revision ?? 0) < row.revision,
        openedBy: read?.openedBy ?? null,
      });
    }
    const last = rows[limit - 1];
    return { entries, next: rows.length > limit && last ? encodeCursor({ at: at(last), id: last.id }) : null };
  }
}
