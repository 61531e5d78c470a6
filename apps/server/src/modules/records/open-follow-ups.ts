import { randomUUID } from 'node:crypto';
import { setImmediate } from 'node:timers/promises';
import { SERVER_EN } from '@ypomet/contract';
import {
  type Actor,
  type CompiledWorkflow,
  enterFollowUp,
  type FollowUpConsequence,
  formatRecordNumber,
  type Json,
  MAX_OPENING_DEPTH,
  memberOf,
  type Opened,
} from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import type { MailHandling } from '../../db/schema.ts';
import { ProblemError, toDetails } from '../../problem.ts';
import { findNewestVersion } from '../workflows/repository.ts';
import { clockColumns } from './clock-columns.ts';
import { Lookups } from './lookups.ts';
import { toNewRow } from './new-row.ts';
import { addPendingFollowUps } from './pending-follow-ups.ts';
import { arrangeMails, toQueued } from './queue-deliveries.ts';
import { type HandOffWrite, insertRecords, type Queries, takeNumbers, writeHandOffs } from './repository.ts';

/** A record that opens others, and what it opens. */
export type Source = {
  readonly record: string;
  readonly number: string | null;
  readonly workflow: string;
  readonly followUps: readonly FollowUpConsequence[];
};
type Target = { readonly workflow: CompiledWorkflow; readonly version: number; readonly lookups: Lookups };
type Asked = { readonly source: Source; readonly consequence: FollowUpConsequence };
/** How many records are decided before the event loop lets other requests run: a few milliseconds of work. */
const BEFORE_OTHERS = 10;
type Begun = Asked & { readonly target: Target; readonly opened: Opened };

/** The parts of the server's context that opening follow-ups needs. */
export type OpeningContext = Pick<ServerContext, 'database' | 'workflows' | 'workspace' | 'clock'>;

/** Records that one request opens at most; the queue opens the rest, a part at a time. */
export const OPENED_AT_ONCE = 100;

/**
 * Opens follow-ups, and those that they open, within the transaction of the hand-off they follow from: level by level, each
 * in its workflow's published version of now. Returns the ids of those that the first record opened; of more than
 * `OPENED_AT_ONCE` in all the rest is left to the queue.
 */
export const openAllFollowUps = (
  context: OpeningContext,
  db: Queries,
  actor: Actor,
  source: Source,
  { depth, mails = null }: { readonly depth: number; readonly mails?: MailHandling | null },
): Promise<readonly string[]> => openInParts(context, db, actor, [source], { depth: depth + 1, atOnce: OPENED_AT_ONCE, mails });

/**
 * How follow-ups are opened. `depth`: how many openings lie before the first ones, plus one. `atOnce`: how many records are
 * opened now at most. `mails`: what becomes of the mails that the records come to; null: they are sent.
 */
export type Opening = { readonly depth: number; readonly atOnce: number; readonly mails: MailHandling | null };

/**
 * Opens the follow-ups of some source records, then the follow-ups of the records that were opened, and so on, up to `atOnce`
 * records in all. The rest is stored as pending in the same transaction, for the queue. Returns the ids of the records that the
 * sources themselves opened.
 */
export async function openInParts(
  context: OpeningContext,
  db: Queries,
  actor: Actor,
  sources: readonly Source[],
  { depth, atOnce, mails }: Opening,
): Promise<readonly string[]> {
  const opener = new Opener(context, db, actor, mails);
  const first: string[] = [];
  let level = sources;
  let left = atOnce;
  for (let at = depth; level.some(({ followUps }) => followUps.length > 0); at++) {
    // Designs that go on are faults; versions of several workflows may still add up to one.
    if (at > MAX_OPENING_DEPTH) throw new ProblemError('hand-off/refused', { detail: SERVER_EN.details['opens-too-deep'] });
    const asked = level.flatMap((one) => one.followUps.map((consequence) => ({ source: one, consequence })));
    const now = asked.slice(0, left);
    await addPendingFollowUps(
      db,
      asked.slice(left).map(({ source, consequence }) => ({ source: source.record, consequence, depth: at, actor, mails })),
    );
    left -= now.length;
    const begun = await opener.begin(now);
    if (begun.length > 0) await opener.write(begun, at);
    if (at === depth) first.push(...begun.map(({ opened }) => opened.record.id));
    level = begun.map(({ opened: { record, followUps } }) => ({
      record: record.id,
      number: record.number,
      workflow: record.workflow,
      followUps,
    }));
  }
  return first;
}

class Opener {
  private readonly targets = new Map<string, Target>();

  constructor(
    private readonly context: OpeningContext,
    private readonly db: Queries,
    private readonly actor: Actor,
    private readonly mails: MailHandling | null,
  ) {}

  /** What becomes of follow-ups in their workflows; nothing is written yet but the numbers they take. */
  async begin(asked: readonly Asked[]): Promise<readonly Begun[]> {
    const counts = new Map<string, number>();
    for (const { consequence } of asked) counts.set(consequence.workflow, (counts.get(consequence.workflow) ?? 0) + 1);
    const next = new Map<string, number>();
    for (const [key, count] of counts) next.set(key, await takeNumbers(this.db, key, count));
    const begun: Begun[] = [];
    for (const [index, one] of asked.entries()) {
      if (index % BEFORE_OTHERS === BEFORE_OTHERS - 1) await setImmediate();
      const { consequence, source } = one;
      const target = await this.target(consequence.workflow);
      const running = next.get(consequence.workflow) as number;
      next.set(consequence.workflow, running + 1);
      const { outside } = target.lookups;
      const number = formatRecordNumber(target.workflow.definition.numbering, running, outside);
      const opening = {
        consequence,
        source: { workflow: source.workflow, record: source.record, number: source.number },
        id: randomUUID(),
        number,
        version: target.version,
        actor: this.actor,
        outside,
      };
      const opened = await target.lookups.settle(() => enterFollowUp(target.workflow, opening));
      if (opened.record.assignee?.kind === 'member') target.lookups.noteAssigned(opened.record.assignee.member);
      begun.push({ ...one, target, opened });
    }
    return begun;
  }

  async write(begun: readonly Begun[], depth: number): Promise<void> {
    await insertRecords(
      this.db,
      begun.map(({ source, consequence, opened: { record } }) =>
        toNewRow(record, {
          opened_by: source.record,
          follow_up: consequence.followUp,
          opened_row: consequence.row,
          depth,
        }),
      ),
    );
    const queued = await toQueued(
      this.db,
      begun.map(({ opened }) => opened.deliveries),
    );
    const writes = begun.map(({ target, opened: { record, events, issues } }, index): HandOffWrite => {
      const stage = target.workflow.stages.get(record.stage)?.stage;
      if (!stage) throw new Error(`no stage ${record.stage}`);
      const isWaiting = events.length === 1;
      return {
        record,
        revision: 0,
        stage,
        events,
        deliveries: arrangeMails(queued[index] ?? [], this.mails),
        // A form that refused nothing but wasn't offered has no issues, and waits all the same.
        issues: isWaiting ? (toDetails(issues) as unknown as readonly Json[]) : null,
        told: null,
        member: memberOf(this.actor),
        at: record.arrivedAt,
        clock: clockColumns(target.workflow, record, target.lookups.outside),
        idempotencyKey: null,
        fingerprint: '',
        answer: null,
      };
    });
    await writeHandOffs(this.db, writes);
  }

  private async target(key: string): Promise<Target> {
    const known = this.targets.get(key);
    if (known) return known;
    const version = await findNewestVersion(this.db, key);
    const workflow = version === null ? null : await this.context.workflows.find(key, version);
    if (version === null || !workflow) throw new Error(`no published version of ${key}`);
    const target = { workflow, version, lookups: new Lookups(this.context, this.db, workflow, this.actor) };
    this.targets.set(key, target);
    return target;
  }
}
