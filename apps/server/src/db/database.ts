import { fileURLToPath } from 'node:url';
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import { runMigrations } from 'graphile-worker';
import pg from 'pg';
import * as schema from './schema.ts';

export type Drizzle = NodePgDatabase<typeof schema>;

/** The pool (for hot paths and the queue) and Drizzle over it (for the rest). */
export type Database = { readonly pool: pg.Pool; readonly drizzle: Drizzle; readonly url: string };

/** Opens the pool for requests. Nothing is connected until it is used. */
export function openDatabase(url: string): Database {
  const pool = openPool(url, 'ypomet', 12);
  return { pool, drizzle: drizzle(pool, { schema }), url };
}

/** A pool under a name that PostgreSQL shows for each of its connections. */
export function openPool(url: string, name: string, size: number): pg.Pool {
  const pool = new pg.Pool({ connectionString: url, max: size, connectionTimeoutMillis: 10_000, application_name: name });
  // A connection that breaks is replaced by the pool; what was under way on it fails and says so.
  pool.on('error', () => undefined);
  pool.on('connect', (client) => client.on('error', () => undefined));
  return pool;
}

/** Migrations live beside this file in source, and beside the bundle when built. */
const migrationsFolder = fileURLToPath(
  new URL(import.meta.url.endsWith('.ts') ? './migrations' : '../src/db/migrations', import.meta.url),
);

/** Brings the database to the present schema, the queue's own included. Safe to run by several servers at once. */
export async function migrateDatabase(database: Database): Promise<void> {
  const client = await database.pool.connect();
  try {
    await client.query('select pg_advisory_lock(7045291)');
    await migrate(drizzle(client, { schema }), { migrationsFolder });
    await runMigrations({ pgPool: database.pool });
  } finally {
    await client.query('select pg_advisory_unlock(7045291)');
    client.release();
  }
}
