import { fileURLToPath } from 'node:url';
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import { runMigrations } from 'graphile-worker';
import pg from 'pg';
import * as schema from './schema.ts';

export type Drizzle = NodePgDatabase<typeof schema>;

/** The pool (for hot paths and the queue) and Drizzle over it (for the rest). */
export type Database = {
  readonly pool: pg.Pool;
  readonly drizzle: Drizzle;
  readonly url: string;
  /** Whether a statement was given up lately because PostgreSQL didn't answer in time. */
  readonly isStalling: () => boolean;
};

/** How long anything may wait for PostgreSQL. The driver gives up a little after PostgreSQL should have. */
export type Patience = {
  readonly connectMs: number;
  readonly statementMs: number;
  readonly lockMs: number;
  readonly answerMs: number;
};

export const PATIENCE: Patience = { connectMs: 3000, statementMs: 10_000, lockMs: 3000, answerMs: 12_000 };
/** A transaction that was begun and forgotten lets go of its locks. */
const IDLE_IN_TRANSACTION_MS = 30_000;
const STALLING_FOR_MS = 5000;

/** Opens the pool for requests. Nothing is connected until it is used. */
export function openDatabase(url: string, patience: Patience = PATIENCE): Database {
  let lastStall = 0;
  const pool = openPool(url, 'ypomet', 12, patience);
  const watched = watchAnswers(pool, () => {
    lastStall = Date.now();
  });
  return {
    pool: watched,
    drizzle: drizzle(watched, { schema }),
    url,
    isStalling: () => Date.now() - lastStall < STALLING_FOR_MS,
  };
}

/** A pool under a name that PostgreSQL shows for each of its connections. */
export function openPool(url: string, name: string, size: number, patience: Patience | null): pg.Pool {
  const pool = new pg.Pool({
    connectionString: url,
    max: size,
    application_name: name,
    // Compiling a statement takes a second; none of ours runs for as long.
    options: '-c jit=off',
    connectionTimeoutMillis: patience?.connectMs ?? PATIENCE.connectMs,
    ...(patience
      ? {
          statement_timeout: patience.statementMs,
          lock_timeout: patience.lockMs,
          query_timeout: patience.answerMs,
          idle_in_transaction_session_timeout: IDLE_IN_TRANSACTION_MS,
        }
      : {}),
  });
  // A connection that breaks is replaced by the pool; what was under way on it fails and says so.
  pool.on('error', () => undefined);
  pool.on('connect', (client) => client.on('error', () => undefined));
  return pool;
}

/** Tells of every statement that was given up because no answer, or no connection, came in time. */
function watchAnswers(pool: pg.Pool, onStall: () => void): pg.Pool {
  const query = pool.query.bind(pool) as (...given: readonly unknown[]) => Promise<unknown>;
  pool.query = ((...given: readonly unknown[]) => {
    const answer = query(...given);
    answer?.catch?.((error: Error) => {
      if (NO_ANSWER.test(error.message)) onStall();
    });
    return answer;
  }) as typeof pool.query;
  return pool;
}

/** What the driver says when PostgreSQL didn't answer, or all connections were taken, for too long. */
const NO_ANSWER = /^(Query read timeout|timeout exceeded when trying to connect|Connection terminated due to connection timeout)/;
/** Codes of PostgreSQL and of the network for connections that are lost, refused or cancelled, and for waits that end. */
const UNAVAILABLE = /^(57P0[1-5]|57014|55P03|53[0-9A-Z]{3}|08[0-9A-Z]{3}|25P03|ECONN[A-Z]+|EPIPE|ETIMEDOUT|ENOTFOUND)$/;

/** Whether an error says that PostgreSQL can't be reached or has no time: the same request may succeed later. */
export function isUnavailable(error: unknown): boolean {
  const { code = '', message = '' } = (error ?? {}) as { readonly code?: string; readonly message?: string };
  return (
    UNAVAILABLE.test(code) ||
    NO_ANSWER.test(message) ||
    /^(Connection terminated|Client has encountered|Client was closed)/.test(message)
  );
}

/** Whether an error leaves it open if a statement was carried out: the connection was lost, or no answer came, after it was sent. */
export function isOutcomeUnknown(error: unknown): boolean {
  const { code = '', message = '' } = (error ?? {}) as { readonly code?: string; readonly message?: string };
  // Statements that waited too long for a lock, or were cancelled, were not carried out.
  if (code === '55P03' || code === '57014' || /^timeout exceeded when trying to connect/.test(message)) return false;
  return isUnavailable(error) && code !== 'ECONNREFUSED' && code !== 'ENOTFOUND';
}

/**
 * Runs work in a transaction of its own connection. A connection on which even the rollback fails is thrown away; it goes
 * back to the pool once, whatever happens.
 */
export async function inTransaction<T>(pool: pg.Pool, work: (client: pg.PoolClient) => Promise<T>): Promise<T> {
  const client = await pool.connect();
  let broken: Error | undefined;
  try {
    await client.query('begin');
    const result = await work(client);
    const { command } = await client.query('commit');
    // PostgreSQL answers the commit of a failed transaction with a rollback, and no error.
    if (command !== 'COMMIT') throw new Error('the transaction was rolled back');
    return result;
  } catch (error) {
    await client.query('rollback').catch((failure: Error) => {
      broken = failure;
    });
    throw error;
  } finally {
    client.release(broken);
  }
}

/** Migrations live beside this file in source, and beside the bundle when built. */
const migrationsFolder = fileURLToPath(
  new URL(import.meta.url.endsWith('.ts') ? './migrations' : '../src/db/migrations', import.meta.url),
);

/** Brings the database to the present schema, the queue's own included. Safe to run by several servers at once. */
export async function migrateDatabase(url: string): Promise<void> {
  // Migrations may take long, and one server waits for another's: no statement of theirs is cut off.
  const pool = openPool(url, 'ypomet migrations', 3, null);
  try {
    const client = await pool.connect();
    try {
      await client.query('select pg_advisory_lock(7045291)');
      await migrate(drizzle(client, { schema }), { migrationsFolder });
      await runMigrations({ pgPool: pool });
      await client.query('select pg_advisory_unlock(7045291)');
    } finally {
      client.release();
    }
  } finally {
    await pool.end();
  }
}

const UNIQUE_VIOLATION = '23505';

/** Whether a statement was refused because what it writes is there already. */
export const isUniqueViolation = (error: unknown): boolean => (error as { code?: string } | null)?.code === UNIQUE_VIOLATION;
