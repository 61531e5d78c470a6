import { execFileSync } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { buildServer } from '@ypomet/server';
import { DEMO_MEMBERS, DEMO_PASSWORD } from '@ypomet/server/demo/members';
import { seedDemo } from '@ypomet/server/demo/seed';
import { median } from './measure.ts';

const CLIENTS = 50;
const SECONDS = 4;
const ROUNDS = 5;

/** The statement of a hand-off without mail, on records of its own. */
const SQL = (records: number): string => `
\\set n random(1, ${records})
with changed as (
  update records set stage = 'registrarCheck', stage_kind = 'work', waiting_roles = '{registrar}', revision = revision + 1, arrived_at = now()
  where workflow = 'objectLoan' and number = 'P-' || :n returning id, revision
), logged as (
  insert into record_events (record, revision, event, by, at) select id, revision, '{"type":"handed-on"}'::jsonb, null, now() from changed
) select count(*) from changed;`;

/** Hand-offs a second over HTTP beside the same transaction in pgbench, in turn, on one durable PostgreSQL. */
export async function benchHandOffs(
  postgres: string,
  programs: string,
): Promise<{ readonly http: number; readonly pgbench: number }> {
  const database = `${postgres}bench`;
  const { app, context } = await buildServer({
    databaseUrl: database,
    port: 0,
    host: '127.0.0.1',
    dataDir: mkdtempSync(path.join(os.tmpdir(), 'ypomet-bench-')),
    sessionSecret: 'a secret for the bench that is long enough',
    isDemo: true,
    isSecure: false,
    webDir: null,
    smtp: { host: '127.0.0.1', port: 0 },
    runsMailStandIn: true,
    logLevel: 'silent',
  });
  await seedDemo(context);
  await context.database.pool.query(
    `insert into records (id, workflow, version, number, stage, stage_kind, track, waiting_roles, submitted_by, values, revision, created_at, arrived_at)
     select gen_random_uuid(), workflow, version, prefix || '-' || n, 'conservationReview', 'work', 'exhibition', '{conservator}', submitted_by, values, 1, now(), now()
     from records, generate_series(1, 2000) n, (values ('B'), ('P')) as p(prefix) where number like '%0001'`,
  );
  const base = await app.listen({ port: 0, host: '127.0.0.1' });
  const cookie = await signIn(base, DEMO_MEMBERS[2].email);
  const { rows } = await context.database.pool.query<{ id: string }>(
    `select id from records where number like 'B-%' order by id`,
  );
  const revisions = new Map(rows.map(({ id }) => [id, 1]));
  const http: number[] = [];
  const reference: number[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    http.push(await roundOverHttp(base, cookie, [...revisions.keys()].slice(round * 400, round * 400 + 400)));
    reference.push(roundOfPgbench(database, programs));
  }
  await app.close();
  return { http: median(http), pgbench: median(reference) };
}

async function signIn(base: string, email: string): Promise<string> {
  const response = await fetch(`${base}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email, password: DEMO_PASSWORD }),
  });
  return response.headers.get('set-cookie')?.split(';')[0] ?? '';
}

/** Sends each record back once, 50 at a time. */
async function roundOverHttp(base: string, cookie: string, ids: readonly string[]): Promise<number> {
  const open = [...ids];
  let done = 0;
  const start = Date.now();
  const work = async (): Promise<void> => {
    for (let id = open.pop(); id !== undefined; id = open.pop()) {
      const response = await fetch(`${base}/api/records/${id}/hand-offs`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', cookie, 'if-match': '"1"' },
        body: '{"handOff":"backToRegistrar"}',
      });
      if (response.status !== 200) throw new Error(await response.text());
      await response.arrayBuffer();
      done += 1;
    }
  };
  await Promise.all(Array.from({ length: CLIENTS }, work));
  return (done * 1000) / (Date.now() - start);
}

function roundOfPgbench(database: string, programs: string): number {
  const script = path.join(mkdtempSync(path.join(os.tmpdir(), 'ypomet-pgbench-')), 'hand-off.sql');
  writeFileSync(script, SQL(2000));
  const output = execFileSync(
    path.join(programs, 'pgbench'),
    ['-n', '-M', 'prepared', '-c', String(CLIENTS), '-j', '2', '-T', String(SECONDS), '-f', script, database],
    { encoding: 'utf8' },
  );
  return Number(/tps = ([\d.]+)/.exec(output)?.[1] ?? 0);
}
