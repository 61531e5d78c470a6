import type { FastifyBaseLogger } from 'fastify';
import type pg from 'pg';
import type { FileStore } from './files/store.ts';
import { PASS_GOOD_MS } from './public-intake/guests.ts';
import { forgetIdleGuests } from './public-intake/repository.ts';

/** How long the answer to a request with an idempotency key is kept: a repeat after that acts again. */
export const ANSWERS_KEPT_HOURS = 48;
/** How long an unfinished form is kept after its last change. */
export const UNFINISHED_KEPT_DAYS = 90;
/** How long it is known that somebody opened a record. */
const READINGS_KEPT_DAYS = 180;
/** How long a file is kept that no record names: longer than an unfinished form that may name it. */
export const UNNAMED_KEPT_DAYS = UNFINISHED_KEPT_DAYS + 30;
/** Contents that were handed over since then may be somebody's who isn't noted yet. */
const UNTOUCHED_MS = 3_600_000;
const EVERY_MS = 15 * 60_000;

const FORGET: readonly string[] = [
  'delete from sessions where expires_at < now()',
  // The demo's own requests are remembered until all of it is there.
  `delete from answered_requests where at < now() - interval '${ANSWERS_KEPT_HOURS} hours'
    and (key not like 'demo-%' or not exists (select 1 from workspace where not is_seeded))`,
  `delete from unfinished_forms where changed_at < now() - interval '${UNFINISHED_KEPT_DAYS} days'`,
  `delete from record_readings where at < now() - interval '${READINGS_KEPT_DAYS} days'`,
  `update deliveries set status = 'put-away', fault = '{"code":"never-confirmed","params":{}}'
    where status = 'unconfirmed' and created_at < now() - interval '7 days'`,
  `delete from reversible_hand_offs where at < now() - interval '1 hour'`,
  `delete from guest_addresses where confirmed_at is null and asked_at < now() - interval '30 days'`,
  'delete from limits where expire < extract(epoch from now()) * 1000',
];

/** Forgets what has run out: sessions, answers that were kept for repeats, forms nobody finished, counts of rate limits. */
export async function forgetOld(pool: pg.Pool, files: FileStore, now = Date.now()): Promise<void> {
  for (const statement of FORGET) await pool.query(statement);
  // A pass that is still good could hand in a record with these files.
  const idle = await forgetIdleGuests(pool, new Date(now - PASS_GOOD_MS).toISOString());
  const unnamed = await forgetUnnamedFiles(pool, UNNAMED_KEPT_DAYS);
  for (const sha256 of [...idle, ...unnamed]) await files.forget(sha256, now - UNTOUCHED_MS);
}

/** Files forgotten with one sweep: the next one goes on. */
const FORGOTTEN_AT_ONCE = 1000;

/**
 * Forgets files that no record has named for so many days since they were handed over. Returns the SHA-256 of the contents that
 * nobody else handed over either.
 */
async function forgetUnnamedFiles(pool: pg.Pool, days: number): Promise<readonly string[]> {
  const { rows } = await pool.query<{ sha256: string }>(
    `with old as (
       select member, sha256, name from files where named_at is null and at < now() - $1::int * interval '1 day' limit ${FORGOTTEN_AT_ONCE}
     ), gone as (
       delete from files f using old where f.member = old.member and f.sha256 = old.sha256 and f.name = old.name returning f.member, f.sha256, f.name
     )
     select distinct g.sha256 from gone g where not exists (
       select from files f where f.sha256 = g.sha256 and not exists (
         select from gone o where o.member = f.member and o.sha256 = f.sha256 and o.name = f.name))`,
    [days],
  );
  return rows.map(({ sha256 }) => sha256);
}

/** Tidies at once and every quarter of an hour, until it is stopped. */
export function keepTidy(tidyUp: () => Promise<void>, log: FastifyBaseLogger): { readonly stop: () => void } {
  const tidy = (): void => {
    tidyUp().catch((error: Error) => log.warn({ message: error.message }, 'what has run out was not forgotten'));
  };
  tidy();
  const timer = setInterval(tidy, EVERY_MS).unref();
  return { stop: () => clearInterval(timer) };
}
