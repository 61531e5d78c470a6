import { randomBytes } from 'node:crypto';
import { cpSync, existsSync, mkdtempSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import pg from 'pg';

/** A database of a test's own, and the folder of what its server keeps in files. */
export type TestDatabase = { readonly url: string; readonly dataDir: string };

/** Fills an empty database and folder, and returns when nothing of it is under way any more. */
export type Fill = (database: TestDatabase) => Promise<void>;

/** Finds jobs that are due or under way: while there are any, what a server has queued is still being sent. */
export const JOBS_UNDER_WAY =
  'select from graphile_worker.jobs where (run_at <= now() or locked_at is not null) and attempts < max_attempts';

/** The address of the PostgreSQL of this run, up to the name of a database. Throws where the tests weren't started by `npm test`. */
function postgresAddress(): string {
  const address = process.env.YPOMET_TEST_POSTGRES;
  if (!address) throw new Error('YPOMET_TEST_POSTGRES is not set: run `npm test`.');
  return address;
}

const newFolder = (): string => mkdtempSync(path.join(os.tmpdir(), 'ypomet-data-'));

async function withClient<T>(work: (client: pg.Client) => Promise<T>): Promise<T> {
  const client = new pg.Client({ connectionString: `${postgresAddress()}postgres` });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

const newName = (): string => `test_${randomBytes(6).toString('hex')}`;

/** Makes an empty database and an empty folder. */
export async function makeEmptyDatabase(): Promise<TestDatabase> {
  const name = newName();
  await withClient((client) => client.query(`create database ${name}`));
  return { url: `${postgresAddress()}${name}`, dataDir: newFolder() };
}

/**
 * Makes a copy of a database and folder that are filled once for all test files of a run, however many processes run
 * them: filling the demo takes seconds, copying it a fraction of one.
 *
 * @param kind what it is filled with, in letters, digits and underscores; copies of one kind are alike
 */
export function makeFilledDatabase(kind: string, fill: Fill): Promise<TestDatabase> {
  const original = `filled_${kind}_${runOfTests()}`;
  const folder = path.join(os.tmpdir(), `ypomet-${original}`);
  return withClient(async (client) => {
    // PostgreSQL copies a database only while nothing is connected to it. Under this lock other processes wait until it is
    // filled, and copies are made one at a time.
    await client.query('select pg_advisory_lock(hashtext($1))', [original]);
    const { rowCount } = await client.query('select 1 from pg_database where datname = $1', [original]);
    if (rowCount === 0) {
      const half = newName();
      await client.query(`create database ${half}`);
      const dataDir = newFolder();
      await fill({ url: `${postgresAddress()}${half}`, dataDir });
      cpSync(dataDir, folder, { recursive: true });
      await client.query(`alter database ${half} rename to ${original}`);
    }
    const name = newName();
    await client.query(`create database ${name} template ${original}`);
    const dataDir = newFolder();
    if (existsSync(folder)) cpSync(folder, dataDir, { recursive: true });
    return { url: `${postgresAddress()}${name}`, dataDir };
  });
}

/** The name of this run, which the configuration of the tests sets: what an earlier run filled may be of other code. */
function runOfTests(): string {
  const run = process.env.YPOMET_TEST_RUN;
  if (!run || !/^\w+$/.test(run)) throw new Error('YPOMET_TEST_RUN is not set: the configuration of the tests sets it.');
  return run;
}
