import type { DeskEntry, ResponseOf } from '@ypomet/contract';
import { type Actor, mayBegin, type Stage } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { decodeCursor, encodeCursor } from '../../paging.ts';
import { listIntakes } from '../workflows/repository.ts';
import { toHeader } from './present.ts';
import { type ListedRow, listSubmitted, listWaiting } from './repository.ts';

type Page = { readonly after?: string | undefined; readonly limit: number };

/** Lists of records: what waits for a member, what they submitted, what they may begin. */
export class RecordLists {
  constructor(private readonly context: ServerContext) {}

  async waiting(actor: Actor, { after, limit }: Page): Promise<ResponseOf<'desk'>> {
    const { pool } = this.context.database;
    return this.page(
      limit,
      (row) => row.arrivedAt,
      () => listWaiting(pool, actor.id, actor.roles, limit + 1, decodeCursor(after)),
    );
  }

  async submitted(actor: Actor, { after, limit }: Page): Promise<ResponseOf<'desk'>> {
    const { pool } = this.context.database;
    return this.page(
      limit,
      (row) => row.createdAt,
      () => listSubmitted(pool, actor.id, limit + 1, decodeCursor(after)),
    );
  }

  async intakes(actor: Actor): Promise<ResponseOf<'intakes'>> {
    const found = await listIntakes(this.context.database.pool);
    return found
      .filter(({ stage }) => mayBegin(stage as Stage, actor))
      .map(({ key, name, description, stage }) => ({ workflow: key, stage: stage.key, name, description }));
  }

  private async page(
    limit: number,
    at: (row: ListedRow) => string,
    list: () => Promise<readonly ListedRow[]>,
  ): Promise<ResponseOf<'desk'>> {
    const rows = await list();
    const entries: DeskEntry[] = [];
    for (const row of rows.slice(0, limit)) {
      const workflow = await this.context.workflows.find(row.workflow, row.version);
      if (workflow) entries.push({ record: toHeader(row, workflow), submitter: row.submitter });
    }
    const last = rows[limit - 1];
    return { entries, next: rows.length > limit && last ? encodeCursor({ at: at(last), id: last.id }) : null };
  }
}
