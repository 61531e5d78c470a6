import { SERVER_EN } from '@ypomet/contract';
import type { RichBlock } from '@ypomet/core';
import type pg from 'pg';
import { inTransaction } from '../../db/database.ts';
import type { StoredContent } from '../../db/schema.ts';
import { ADD_JOB, type Attempt, markFailed, markSent } from './repository.ts';

type Queries = Pick<pg.Pool, 'query'>;
type Mail = Extract<StoredContent, { type: 'mail' }>;
/** A mail that is sent together with others. */
export type DigestedMail = { readonly id: string; readonly subject: string; readonly content: Mail };

/** How many mails are sent as one at most; more are sent as several. */
export const DIGESTED_AT_MOST = 200;
/** How long a mail waits again while further mails are being added. */
const WAITS_AGAIN_SECONDS = 30;

/** Makes the condition under which two deliveries are mails of one import to the same receivers, without anything attached. */
const IS_MATE = (one: string, other: string): string =>
  `${one}.digest = ${other}.digest and ${one}.status = 'queued' and ${one}.kind = 'mail' and ${one}.outlet = ${other}.outlet
    and ${one}.content -> 'addresses' = ${other}.content -> 'addresses'
    and coalesce(${one}.content -> 'taken', '[]') = coalesce(${other}.content -> 'taken', '[]')
    and coalesce(${one}.content -> 'attached', 'null') = 'null' and ${one}.content -> 'files' = '[]'`;

/**
 * Finds the mails that are sent as one with mail `id`, itself among them, the earliest first. Empty if mail `id` is sent by
 * itself because something is attached to it. `isGrowing`: one of them was added less than half a minute ago, so that further
 * ones are likely.
 */
export async function findDigest(
  db: Queries,
  id: string,
): Promise<{ readonly mails: readonly DigestedMail[]; readonly isGrowing: boolean }> {
  const { rows } = await db.query<DigestedMail & { readonly isNew: boolean }>({
    name: 'find-digest',
    text: `select d.id, d.subject, d.content, d.attempts = 0 and coalesce(d.next_at > now() + interval '${WAITS_AGAIN_SECONDS} seconds', false) as "isNew"
      from deliveries d join deliveries own on own.id = $1 and ${IS_MATE('own', 'own')} and ${IS_MATE('d', 'own')} order by d.sequence`,
    values: [id],
  });
  return {
    mails: rows.slice(0, DIGESTED_AT_MOST).map(({ isNew: _isNew, ...mail }) => mail),
    isGrowing: rows.some(({ isNew }) => isNew),
  };
}

/** Lets a mail wait until no further ones are added to its digest. */
export const waitForDigest = (db: Queries, id: string): Promise<unknown> =>
  db.query({
    name: 'wait-for-digest',
    text: `with later as (
        update deliveries set next_at = now() + interval '${WAITS_AGAIN_SECONDS} seconds' where id = $1 and status = 'queued'
        returning id, outlet, digest, next_at)
      select ${ADD_JOB('later', 'next_at')} from later`,
    values: [id],
  });

/** Returns one mail with the texts of several, each under its subject. Replies go where those of all of them would go. */
export function writeDigest([first, ...others]: readonly [DigestedMail, ...DigestedMail[]]): Mail {
  const mails = [first, ...others];
  const count = String(mails.length);
  const replyTo = JSON.stringify(first.content.addresses?.replyTo ?? []);
  const isOneReply = mails.every(({ content }) => JSON.stringify(content.addresses?.replyTo ?? []) === replyTo);
  const body = mails.flatMap(({ subject, content }): readonly RichBlock[] => [
    { kind: 'heading', level: 2, runs: [{ text: subject }] },
    ...content.body,
  ]);
  const { addresses = { to: [], cc: [], bcc: [], replyTo: [] } } = first.content;
  return {
    ...first.content,
    subject: SERVER_EN.digest.subject.replace('{count}', count),
    body: [{ kind: 'paragraph', runs: [{ text: SERVER_EN.digest.opening.replace('{count}', count) }] }, ...body],
    addresses: isOneReply ? addresses : { ...addresses, replyTo: [] },
  };
}

/** Notes for every mail of a digest that it was sent. */
export const markDigestSent = (pool: pg.Pool, mails: readonly DigestedMail[], attempt: Omit<Attempt, 'id'>): Promise<void> =>
  inTransaction(pool, async (client) => {
    for (const { id } of mails) await markSent(client, { ...attempt, id });
  });

/** Notes for every mail of a digest why it wasn't sent, as `markFailed` does for one. */
export const markDigestFailed = (
  pool: pg.Pool,
  mails: readonly DigestedMail[],
  attempt: Omit<Attempt, 'id'>,
  [fault, pauseSeconds, taken]: readonly [Parameters<typeof markFailed>[2], number | null, readonly string[]],
): Promise<void> =>
  inTransaction(pool, async (client) => {
    for (const { id } of mails) await markFailed(client, { ...attempt, id }, fault, pauseSeconds, taken);
  });
