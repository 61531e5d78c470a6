import { type Actor, maySee } from '@ypomet/core';
import type { FastifyBaseLogger } from 'fastify';
import type { Database } from '../../db/database.ts';
import { type Stream, sendTo } from '../../plugins/streams.ts';
import { ProblemError } from '../../problem.ts';
import type { WorkflowCache } from '../workflows/workflow-cache.ts';
import { type RecordRow, toRecord } from './record-row.ts';
import { findRecords, findRecordsSince, newestEvent } from './repository.ts';

/** How often a server looks for what happened, whichever server did it, while anybody watches. */
const EVERY_MS = 1000;
/** How soon it looks after something was done through itself; what is done within that is told together. */
const SOON_MS = 50;
const HEARTBEAT_MS = 25_000;
const MAX_OPEN = 20;
const MAX_BUFFERED_BYTES = 64_000;
/** Events are numbered before they are there: so many back are looked at again, lest one that came late is missed. */
const LOOK_BACK = 500;

/** What a page watches: a record, the records of a register, or what its member may see. */
export type Watched = { readonly record?: string | undefined; readonly workflow?: string | undefined };
type Watcher = { readonly watched: Watched; readonly actor: Actor; readonly stream: Stream };

/**
 * Tells pages that records have changed which they show; never what, so that each asks for what its member may see. What is told
 * comes from the records' events, whichever process wrote them.
 */
export class RecordWatch {
  private readonly watchers = new Set<Watcher>();
  private readonly told = new Set<string>();
  private newest = 0n;
  private looking: Promise<void> | null = null;
  private readonly timer: NodeJS.Timeout;
  private soon: NodeJS.Timeout | null = null;
  private readonly heartbeat: NodeJS.Timeout;

  constructor(
    private readonly context: { readonly database: Pick<Database, 'pool'>; readonly workflows: Pick<WorkflowCache, 'find'> },
    private readonly log: Pick<FastifyBaseLogger, 'warn'>,
  ) {
    this.timer = setInterval(() => void this.look(), EVERY_MS);
    this.timer.unref();
    this.heartbeat = setInterval(() => this.send(() => true, ': still here\n\n'), HEARTBEAT_MS);
    this.heartbeat.unref();
  }

  /** Opens a page's stream, for what its member has been found to have a right to; what ends it is returned. */
  async open(watched: Watched, actor: Actor, makeStream: () => Stream): Promise<() => void> {
    if ([...this.watchers].filter((one) => one.actor.id === actor.id).length >= MAX_OPEN)
      throw new ProblemError('request/too-many', { retryAfterSeconds: 60 });
    if (this.watchers.size === 0) this.newest = await newestEvent(this.context.database.pool);
    const watcher: Watcher = { watched, actor, stream: makeStream() };
    this.watchers.add(watcher);
    watcher.stream.write(': here\n\n');
    return () => {
      if (this.watchers.delete(watcher)) watcher.stream.end();
    };
  }

  /** Something was done through this server that may have changed records: whoever watches is told without waiting for the next look. */
  lookSoon(): void {
    if (this.watchers.size === 0 || this.soon) return;
    this.soon = setTimeout(() => {
      this.soon = null;
      // A look that is under way may have begun before.
      void (this.looking ?? Promise.resolve()).then(() => this.look());
    }, SOON_MS);
    this.soon.unref();
  }

  async stop(): Promise<void> {
    clearInterval(this.timer);
    if (this.soon) clearTimeout(this.soon);
    clearInterval(this.heartbeat);
    for (const { stream } of this.watchers) stream.end();
    this.watchers.clear();
    await this.looking;
  }

  /** Looks once, unless it is being looked already. */
  private look(): Promise<void> {
    if (this.watchers.size === 0) return Promise.resolve();
    this.looking ??= this.tell()
      // The next look finds it.
      .catch((error: Error) => this.log.warn({ message: error.message }, 'changes of records couldn’t be told'))
      .finally(() => {
        this.looking = null;
      });
    return this.looking;
  }

  private async tell(): Promise<void> {
    const { pool } = this.context.database;
    const found = await findRecordsSince(pool, this.newest - BigInt(LOOK_BACK));
    const fresh = found.filter(({ id }) => BigInt(id) > this.newest || !this.told.has(id));
    const isFirst = this.told.size === 0;
    this.told.clear();
    for (const { id } of found) this.told.add(id);
    const known = this.newest;
    for (const { id } of found) if (BigInt(id) > this.newest) this.newest = BigInt(id);
    const changed = new Set(fresh.flatMap(({ id, record }) => (isFirst && BigInt(id) <= known ? [] : [record])));
    if (changed.size === 0) return;
    const rows = await findRecords(pool, [...changed]);
    const concerned = new Set<Watcher>();
    for (const watcher of this.watchers) if (await this.concerns(watcher, rows)) concerned.add(watcher);
    this.send((watcher) => concerned.has(watcher), 'data: {"type":"changed"}\n\n');
  }

  private async concerns({ watched, actor }: Watcher, rows: readonly RecordRow[]): Promise<boolean> {
    if (watched.record !== undefined) return rows.some(({ id }) => id === watched.record);
    if (watched.workflow !== undefined) return rows.some(({ workflow }) => workflow === watched.workflow);
    for (const row of rows) {
      const workflow = await this.context.workflows.find(row.workflow, row.version);
      if (workflow && maySee(workflow.definition, toRecord(row), actor)) return true;
    }
    return false;
  }

  private send(to: (watcher: Watcher) => boolean, text: string): void {
    sendTo(this.watchers, to, text, MAX_BUFFERED_BYTES);
  }
}
