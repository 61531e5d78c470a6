import type { BodyOf, TakenBackRow } from '@ypomet/contract';
import { type Actor, type WorkflowRecord, writeInstant } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { inTransaction } from '../../db/database.ts';
import { ProblemError } from '../../problem.ts';
import { clockColumns } from './clock-columns.ts';
import { type RecordRow, toRecord } from './record-row.ts';
import { refusalOf } from './refusals.ts';
import { findRecordsForUpdate, type Queries, writeHandOffs } from './repository.ts';

/** How long the deliveries of a hand-off of many records are held back, so that it can be taken back before anything is sent. */
export const HELD_SECONDS = 60;
/** A delivery that is due within this time may be on its way already. */
const TOO_CLOSE = `interval '3 seconds'`;
/** How long a hand-off that sends nothing can be taken back. */
const TAKEN_BACK_WITHIN = `interval '10 minutes'`;

/** Stores how a record was before a hand-off, so that whoever handed it on can take that back. Only the last hand-off of each record is kept. */
export async function noteReversible(
  db: Queries,
  before: WorkflowRecord,
  handOff: string,
  revision: number,
  by: string,
): Promise<void> {
  await db.query({
    name: 'note-reversible',
    text: `insert into reversible_hand_offs (record, revision, member, hand_off, before) values ($1, $2, $3, $4, $5)
      on conflict (record) do update set revision = excluded.revision, member = excluded.member, hand_off = excluded.hand_off,
        before = excluded.before, at = now()`,
    values: [before.id, revision, by, handOff, JSON.stringify(before)],
  });
}

/** Takes hand-offs of many back, each by itself; what refuses one is told with it. */
export async function takeBackMany(
  context: ServerContext,
  { records }: BodyOf<'takeBackMany'>,
  actor: Actor,
): Promise<TakenBackRow[]> {
  const told: TakenBackRow[] = [];
  for (const { id, revision } of records) {
    const issues = await takeBack(context, id, revision, actor).then(() => [], refusalOf);
    told.push({ id, isTakenBack: issues.length === 0, issues });
  }
  context.changes.lookSoon();
  return told;
}

/**
 * Takes one hand-off back, in one transaction: the record is again as it was before, its history tells both, and what was held
 * back is never sent. Code `take-back/too-late` where the record has changed since, something was sent, or it was long ago.
 */
async function takeBack(context: ServerContext, id: string, revision: number, actor: Actor): Promise<void> {
  const { database, workflows, workspace, clock } = context;
  await inTransaction(database.pool, async (client) => {
    const [row] = await findRecordsForUpdate(client, [id]);
    const kept = row?.revision === revision ? await findReversible(client, row, actor) : null;
    if (!row || kept === null || !(await dropHeld(client, id, kept.at))) throw new ProblemError('take-back/too-late');
    const { before, handOff } = kept;
    const workflow = await workflows.find(row.workflow, row.version);
    const stage = workflow?.stages.get(before.stage)?.stage;
    if (!workflow || !stage) throw new Error(`no stage ${before.stage}`);
    const event = { type: 'taken-back' as const, handOff, from: row.stage, to: before.stage };
    const [isStored] = await writeHandOffs(client, [
      {
        record: before,
        revision,
        stage,
        events: [event],
        deliveries: [],
        issues: null,
        told: null,
        member: actor.id,
        at: writeInstant(clock()),
        clock: clockColumns(workflow, before, { zone: workspace.zone, calendar: workspace.counting }),
        idempotencyKey: null,
        fingerprint: '',
        answer: null,
      },
    ]);
    if (!isStored) throw new ProblemError('take-back/too-late');
    await client.query('delete from reversible_hand_offs where record = $1', [id]);
  });
}

type Kept = { readonly before: WorkflowRecord; readonly handOff: string; readonly at: string };

/** How a record was before the actor's own last hand-off, and when that was; null where it can't be taken back any more. */
async function findReversible(db: Queries, row: RecordRow, actor: Actor): Promise<Kept | null> {
  const { rows } = await db.query<{ before: WorkflowRecord; handOff: string; at: string }>(
    `select k.before, k.hand_off as "handOff", e.at::text as at from reversible_hand_offs k
       join record_events e on e.record = k.record and e.revision = k.revision and e.event ->> 'type' = 'handed-on'
     where k.record = $1 and k.revision = $2 and k.member = $3 and k.at > now() - ${TAKEN_BACK_WITHIN}`,
    [row.id, row.revision, actor.id],
  );
  const [found] = rows;
  // Counts of follow-ups and awaited answers may have changed meanwhile, and are not part of what is restored.
  return found ? { ...found, before: { ...found.before, followUps: toRecord(row).followUps, awaited: row.awaited } } : null;
}

/** Deletes the deliveries of a hand-off with their jobs. Returns false, and deletes nothing, if one of them may be on its way. */
async function dropHeld(db: Queries, record: string, at: string): Promise<boolean> {
  const { rows } = await db.query<{ all: number; held: number }>(
    `select count(*)::int as all, count(*) filter (where attempts = 0 and (status = 'waiting' or (status = 'queued' and next_at > now() + ${TOO_CLOSE})))::int as held
     from deliveries where record = $1 and created_at = $2::timestamptz`,
    [record, at],
  );
  const [found] = rows;
  if (!found || found.held < found.all) return false;
  await db.query(
    `with gone as (delete from deliveries where record = $1 and created_at = $2::timestamptz returning id)
     select graphile_worker.remove_job(id::text) from gone`,
    [record, at],
  );
  return true;
}
