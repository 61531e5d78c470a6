import type { DeliveryFault } from '@ypomet/contract';
import { type Json, readRich, takeAnswer, type WebConsequence } from '@ypomet/core';
import type { ServerContext } from '../../context.ts';
import { inTransaction, isUnavailable } from '../../db/database.ts';
import type { StoredContent } from '../../db/schema.ts';
import { NotSent, plainMail, type Received } from '../../outlets/outlet.ts';
import { toDetails } from '../../problem.ts';
import { askToConfirm, findUnconfirmed } from '../public-intake/confirm-receivers.ts';
import { findGuestOf } from '../public-intake/repository.ts';
import { clockColumns } from '../records/clock-columns.ts';
import { Lookups } from '../records/lookups.ts';
import { toRecord } from '../records/record-row.ts';
import { findRecordsForUpdate, writeNoted } from '../records/repository.ts';
import { findDigest, markDigestFailed, markDigestSent, waitForDigest, writeDigest } from './digests.ts';
import {
  type DeliveryRow,
  findDelivery,
  findFurther,
  findNextInOrder,
  markFailed,
  markSent,
  markUnconfirmed,
  putOffUntilAfter,
  requeueIfConfirmed,
  sequenceOf,
} from './repository.ts';

/** Attempts before a delivery waits for a person: about six hours in all. */
export const MAX_ATTEMPTS = 12;
const FOLLOWING = 'Only for you: see how it stands, and answer when it comes back to you, at ';
const LONGEST_PAUSE_SECONDS = 3 * 3600;

/** How long a delivery rests after so many failed attempts: growing, and never for all at the same time. */
export const pauseAfter = (attempts: number, random: () => number = Math.random): number =>
  Math.min(Math.exp(attempts), LONGEST_PAUSE_SECONDS) * (0.5 + random());

export type Delivering = Pick<ServerContext, 'database' | 'outlets' | 'workflows' | 'workspace' | 'clock' | 'guests'> & {
  /** Where people reach the application; null where that isn't known. */
  readonly address: string | null;
};

/** How long one job goes on with other deliveries of its queue before it gives way to other jobs. */
const GIVE_WAY_AFTER_MS = 10_000;
/** How many deliveries a job sends at the same time if the outlet keeps no order: most of the time of each is spent waiting for its receiver. */
const ABREAST = 4;
/** How many further deliveries a job looks up with one query. */
const FURTHER_AT_ONCE = 50;

/**
 * The job of a queued delivery: sends it, after all earlier deliveries of its outlet where the outlet keeps the order. If an
 * earlier one failed and rests, the job comes again when that one does. Then it goes on with what else is due in its queue,
 * which no other job works at meanwhile: a job for each would wait for its turn longer than it takes. Throws only where the
 * database can't be reached.
 */
export async function deliver(delivering: Delivering, id: string, signal?: AbortSignal): Promise<void> {
  const { pool } = delivering.database;
  const end = performance.now() + GIVE_WAY_AFTER_MS;
  const isOver = (): boolean => performance.now() > end || signal?.aborted === true;
  for (;;) {
    const next = await findNextInOrder(pool, id);
    if (next === null) return;
    const isOther = next.id !== id;
    // A delivery whose own job runs is tried, even where it rests: somebody wants it tried now.
    if (isOther && (next.isResting || isOver())) {
      await putOffUntilAfter(pool, id, next.id);
      return;
    }
    await attempt(delivering, next.id);
    if (!isOther) break;
  }
  while (!isOver()) {
    const { ids, isOrdered } = await findFurther(pool, id, FURTHER_AT_ONCE);
    if (ids.length === 0) return;
    const abreast = isOrdered ? 1 : ABREAST;
    for (let place = 0; place < ids.length; place += abreast) {
      if (isOver()) return;
      const rests = await Promise.all(ids.slice(place, place + abreast).map((one) => attempt(delivering, one)));
      if (isOrdered && rests[0]) return;
    }
  }
}

/**
 * Tries a queued delivery once. What comes of it is noted with the attempt: it is sent, comes again after a pause, or waits
 * for a person. One that was settled meanwhile is left alone. Returns whether it comes again after a pause. Throws only where
 * the database can't be reached.
 */
async function attempt(delivering: Delivering, id: string): Promise<boolean> {
  const { pool } = delivering.database;
  const row = await findDelivery(pool, id);
  if (row?.status !== 'queued') return false;
  if (row.digest !== null) {
    const { mails, isGrowing } = await findDigest(pool, id);
    if (isGrowing) {
      await waitForDigest(pool, id);
      return true;
    }
    const [first, ...others] = mails;
    if (first && others.length > 0) return attemptDigest(delivering, row, [first, ...others]);
  }
  const begun = performance.now();
  const duration = (): number => Math.round(performance.now() - begun);
  let received: Received;
  let held: readonly string[];
  try {
    const content = await withFollowing(delivering, row.recordId, contentOf(row));
    held = await holdUnconfirmed(delivering, row, content);
    const others = receiversIn(content).filter((one) => !held.includes(one));
    if (held.length > 0 && others.length === 0) {
      await waitForConfirmation(pool, id, held, []);
      return false;
    }
    const sequence = await sequenceOf(pool, id);
    const sending = held.length === 0 ? content : { ...content, taken: [...(content.taken ?? []), ...held] };
    received = await delivering.outlets.send(row.outlet, { id, sequence, content: sending });
    if (held.length > 0) {
      await waitForConfirmation(pool, id, held, others);
      return false;
    }
  } catch (error) {
    if (isUnavailable(error)) throw error;
    const { fault, isFinal, answer, taken } = faultOf(error);
    const attempts = row.attempts + 1;
    const pause = isFinal || attempts >= MAX_ATTEMPTS ? null : pauseAfter(attempts);
    await markFailed(pool, { id, durationMs: duration(), answer, issues: null }, fault, pause, taken);
    return pause !== null;
  }
  const sent = { id, durationMs: duration(), answer: received.answer.slice(0, 4000), issues: null };
  const { content } = row;
  if (content?.type === 'web' && content.answers.length > 0) await takeIn(delivering, row, content, received.json ?? null, sent);
  else await markSent(pool, sent);
  return false;
}

/** Tries once to send several mails as one; what comes of it is noted with each. Returns whether they come again after a pause. */
async function attemptDigest(
  { database: { pool }, outlets }: Delivering,
  { outlet, attempts }: DeliveryRow,
  mails: Parameters<typeof writeDigest>[0],
): Promise<boolean> {
  const [{ id }] = mails;
  const begun = performance.now();
  const attemptOf = (answer: string) => ({ durationMs: Math.round(performance.now() - begun), answer, issues: null });
  try {
    const { answer } = await outlets.send(outlet, { id, sequence: await sequenceOf(pool, id), content: writeDigest(mails) });
    await markDigestSent(pool, mails, attemptOf(answer.slice(0, 4000)));
    return false;
  } catch (error) {
    if (isUnavailable(error)) throw error;
    const { fault, isFinal, answer, taken } = faultOf(error);
    const pause = isFinal || attempts + 1 >= MAX_ATTEMPTS ? null : pauseAfter(attempts + 1);
    await markDigestFailed(pool, mails, attemptOf(answer), [fault, pause, taken]);
    return pause !== null;
  }
}

type Failure = {
  readonly fault: DeliveryFault;
  readonly isFinal: boolean;
  readonly answer: string;
  readonly taken: readonly string[];
};

function faultOf(error: unknown): Failure {
  if (error instanceof NotSent) {
    const { isFinal = false, answer = '', taken = [] } = error.more;
    return { fault: error.fault, isFinal, answer: answer.slice(0, 4000), taken };
  }
  const { message } = error as Error;
  return { fault: { code: 'refused', params: { answer: message.slice(0, 500) } }, isFinal: false, answer: '', taken: [] };
}

/** What is sent; of deliveries of before these had contents, the mail they were. */
const contentOf = ({ content, name, outlet, recipients, subject, body }: DeliveryRow): StoredContent =>
  content ?? plainMail(outlet, name, recipients, subject, readRich(body));

/** Notes that a mail waits for addresses to be confirmed; one that was confirmed meanwhile queues it again at once. */
async function waitForConfirmation(
  pool: Delivering['database']['pool'],
  id: string,
  held: readonly string[],
  taken: readonly string[],
): Promise<void> {
  await markUnconfirmed(pool, id, held, taken);
  await requeueIfConfirmed(pool, id);
}

const receiversIn = ({ addresses, taken = [] }: StoredContent): readonly string[] =>
  addresses ? [...addresses.to, ...addresses.cc, ...addresses.bcc].filter((one) => !taken.includes(one)) : [];

/** Returns the receivers of a mail who haven't confirmed the address that a guest gave, after asking each of them to. The mail waits for them. */
async function holdUnconfirmed(delivering: Delivering, row: DeliveryRow, content: StoredContent): Promise<readonly string[]> {
  if (content.type !== 'mail') return [];
  const unconfirmed = await findUnconfirmed(delivering.database.pool, row.recordId, content);
  if (unconfirmed === null) return [];
  await askToConfirm(delivering, row.outlet, unconfirmed);
  return unconfirmed.addresses;
}

/**
 * A mail to nobody but the guest who submitted the record tells, at its end, where they follow it. The address holds their
 * pass: it is added as the mail is sent, and neither kept with it nor sent to anybody else.
 */
async function withFollowing({ database, guests, address }: Delivering, record: string, content: StoredContent) {
  if (content.type !== 'mail' || address === null) return content;
  const { to, cc, bcc } = content.addresses ?? { to: [], cc: [], bcc: [] };
  const [only, ...others] = [...to, ...cc, ...bcc];
  if (only === undefined || others.length > 0) return content;
  const found = await findGuestOf(database.pool, record);
  if (!found || found.email.toLowerCase() !== only.toLowerCase()) return content;
  const link = `${address}/follow#${guests.passes.write(found)}`;
  return {
    ...content,
    body: [...content.body, { kind: 'paragraph' as const, runs: [{ text: FOLLOWING }, { text: link, link }] }],
  };
}

/** Takes values from an answer into the record, in one transaction with the note of what the delivery came to. */
async function takeIn(
  { database, workflows, workspace, clock }: Delivering,
  { recordId }: DeliveryRow,
  content: WebConsequence,
  answer: Json,
  attempt: Parameters<typeof markSent>[1],
): Promise<void> {
  await inTransaction(database.pool, async (client) => {
    const [row] = await findRecordsForUpdate(client, [recordId]);
    const workflow = row && (await workflows.find(row.workflow, row.version));
    if (!row || !workflow) throw new Error(`no record ${recordId}`);
    const nobody = { id: '', name: content.outlet, email: null, roles: [] };
    const lookups = new Lookups({ workspace, clock, workflows }, client, workflow, nobody);
    const taken = await lookups.settle(() => takeAnswer(workflow, toRecord(row), content, answer, lookups.outside));
    if (taken.ok) {
      const { record, event } = taken.value;
      if (event) await writeNoted(client, record, row.revision, event, clockColumns(workflow, record, lookups.outside));
      await markSent(client, attempt);
      return;
    }
    // It was asked, and what is needed of it isn't there: a person looks, and the record goes on saying that it is awaited.
    const details = toDetails(taken.diagnostics);
    const issues = details as unknown as readonly Json[];
    const why = { code: 'answer-unfit' as const, params: { why: details.map(({ message }) => message).join(' ') } };
    const codes = [...new Set(taken.diagnostics.map(({ code }) => code))];
    const event = { type: 'answer-refused' as const, delivery: content.delivery, outlet: content.outlet, issues: codes };
    const record = toRecord(row);
    await writeNoted(client, record, row.revision, event, clockColumns(workflow, record, lookups.outside, row.refused));
    await markFailed(client, { ...attempt, issues }, why, null);
  });
}
