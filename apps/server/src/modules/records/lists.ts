import type { DeskEntry, ResponseOf } from '@ypomet/contract';
import { type Actor, mayBegin, type Stage } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { decodeCursor, encodeCursor } from '../../paging.ts';
import { listIntakes } from '../workflows/repository.ts';
import { nowOf, toHeader } from './present.ts';
import { listReadings } from './readings.ts';
import { countWaiting, type DeskNarrowing, type ListedRow, listSubmitted, listWaiting } from './repository.ts';

type Page = { readonly after?: string | undefined; readonly limit: number };
type DeskPageOf = Page &
  Omit<DeskNarrowing, 'workflow' | 'stage'> & { readonly workflow?: string | undefined; readonly stage?: string | undefined };

/** Lists of records: what waits for a member, what they submitted, what they may begin. */
export class RecordLists {
  constructor(private readonly context: ServerContext) {}

  async waiting(actor: Actor, { after, limit, sort, workflow, stage, find }: DeskPageOf): Promise<ResponseOf<'desk'>> {
    const { pool } = this.context.database;
    const narrowing = { sort, workflow: workflow ?? null, stage: stage ?? null, find };
    return this.page(
      actor,
      limit,
      (row) => row.place,
      () => listWaiting(pool, actor.id, actor.roles, limit + 1, decodeCursor(after), narrowing),
    );
  }

  /** How much waits, by workflow and stage; versions of one workflow are counted together, under the newest names. */
  async summary(actor: Actor): Promise<ResponseOf<'deskSummary'>> {
    const now = new Date(this.context.clock()).toISOString();
    const counted = await countWaiting(this.context.database.pool, actor.id, actor.roles, now);
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
    const entries: DeskEntry[] = [];
    for (const row of shown) {
      const read = readings.get(row.id);
      const workflow = await this.context.workflows.find(row.workflow, row.version);
      if (!workflow) continue;
      entries.push({
        record: toHeader(row, workflow, nowOf(this.context)),
        submitter: row.submitter,
        isUnread: (read?.revision ?? 0) < row.revision,
        openedBy: read?.openedBy ?? null,
      });
    }
    const last = rows[limit - 1];
    return { entries, next: rows.length > limit && last ? encodeCursor({ at: at(last), id: last.id }) : null };
  }
}
