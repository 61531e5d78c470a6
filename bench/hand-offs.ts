import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, writeFileSync } from 'node:fs';
import http from 'node:http';
import os from 'node:os';
import path from 'node:path';
import { DEMO_MEMBERS, DEMO_PASSWORD } from '@ypomet/server/demo/members';
import { writeHandOffsSql } from '@ypomet/server/modules/records/write-hand-off.sql';
import pg from 'pg';
import { median } from './measure.ts';

const CLIENTS = 50;
const SECONDS = 4;
const ROUNDS = 5;
const PER_ROUND = 2000;

/**
 * The same statements with the same ids, one hand-off after another: who asks, the record by its id, and the write with its
 * commit. `:n` draws one of the round's records; the ids stand in a table of their own, as clients have them at hand.
 */
const SCRIPT = `
\\set n random(1, ${PER_ROUND})
select id as record from bench_ids where n = :n \\gset
select s.id, s.data, m.id, m.name, m.email, m.roles from sessions s left join members m on m.id = (s.data ->> 'memberId')::uuid
  where s.id = (select id from sessions where expires_at > now() limit 1);
select r.* from records r where r.id = :record;
${writeHandOffsSql('skips-held').replace(
  '$1::jsonb',
  `(select jsonb_build_array(jsonb_build_object('place', 0, 'id', id, 'revision', revision, 'stage', 'registrarCheck',
    'stage_kind', 'work', 'track', track, 'waiting_roles', '["registrar"]'::jsonb, 'values', values, 'at', now(), 'arrived_at', now(), 'arrives', true, 'member', submitted_by,
    'defaulted', '[]'::jsonb, 'reminded', '[]'::jsonb, 'refused', '[]'::jsonb,
    'events', '[{"type":"handed-on","from":"conservationReview","to":"registrarCheck"}]'::jsonb, 'deliveries', '[]'::jsonb, 'fingerprint', repeat('f', 64), 'answer', values))
    from records where id = :record)`,
)};`;

/** Rates of the rounds: the median, and how far apart the least and the greatest lie, as a share of it. */
export type Spread = { readonly median: number; readonly spread: number };
const spreadOf = (rates: readonly number[]): Spread => {
  const middle = median(rates);
  return { median: middle, spread: (Math.max(...rates) - Math.min(...rates)) / middle };
};

/** Hand-offs a second over HTTP beside the same statements in pgbench, in turn, on one durable PostgreSQL. */
export async function benchHandOffs(
  postgres: string,
  programs: string,
): Promise<{ readonly http: Spread; readonly pgbench: Spread }> {
  const database = `${postgres}bench`;
  const { child, base } = await startServer(database);
  try {
    return await measure(database, base, programs);
  } finally {
    child.kill('SIGTERM');
  }
}

async function measure(
  database: string,
  base: string,
  programs: string,
): Promise<{ readonly http: Spread; readonly pgbench: Spread }> {
  const client = new pg.Client({ connectionString: database });
  await client.connect();
  await client.query(
    `insert into records (id, workflow, version, number, stage, stage_kind, track, waiting_roles, submitted_by, values, revision, created_at, arrived_at)
     select gen_random_uuid(), workflow, version, prefix || '-' || n, 'conservationReview', 'work', 'exhibition', '{conservator}', submitted_by, values, 1, now(), now()
     from records, generate_series(1, ${PER_ROUND * (ROUNDS + 1)}) n, (values ('B'), ('P')) as p(prefix) where number like '%0001'`,
  );
  await client.query('vacuum analyze records');
  const { rows } = await client.query<{ id: string }>(`select id from records where number like 'B-%' order by id`);
  await client.query('create table bench_ids (n int primary key, id uuid not null)');
  await client.query(
    `insert into bench_ids select row_number() over (order by id), id from records where number like 'P-%' order by id limit ${PER_ROUND}`,
  );
  await client.end();
  const cookie = await signIn(base, DEMO_MEMBERS[2].email);
  const overHttp: number[] = [];
  const reference: number[] = [];
  for (let round = 0; round <= ROUNDS; round++) {
    const ids = rows.slice(round * PER_ROUND, (round + 1) * PER_ROUND).map(({ id }) => id);
    // In both orders, in turn: neither always finds the other's work still being written out.
    const isFirst = round % 2 === 0;
    if (!isFirst) reference.push(roundOfPgbench(database, programs));
    const rate = await roundOverHttp(base, cookie, ids);
    if (round === 0) continue;
    overHttp.push(rate);
    if (isFirst) reference.push(roundOfPgbench(database, programs));
  }
  return { http: spreadOf(overHttp), pgbench: spreadOf(reference) };
}

/** The built server, as it runs in earnest: a process of its own. */
export async function startServer(databaseUrl: string): Promise<{ readonly child: ChildProcess; readonly base: string }> {
  const child = spawn(process.execPath, ['apps/server/dist/main.js'], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: {
      ...process.env,
      DATABASE_URL: databaseUrl,
      YPOMET_DATA: mkdtempSync(path.join(os.tmpdir(), 'ypomet-bench-')),
      YPOMET_DEMO: '1',
      PORT: '0',
      LOG_LEVEL: 'error',
    },
  });
  const base = await new Promise<string>((resolve, reject) => {
    child.stdout?.setEncoding('utf8').on('data', (text: string) => {
      const ready = /^ready (\S+)$/m.exec(text);
      if (ready?.[1]) resolve(ready[1]);
    });
    child.once('exit', (code) => reject(new Error(`the server ended with ${code} before it was ready`)));
  });
  return { child, base };
}

export async function signIn(base: string, email: string): Promise<string> {
  const response = await fetch(`${base}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email, password: DEMO_PASSWORD }),
  });
  return response.headers
    .getSetCookie()
    .map((cookie) => cookie.split(';')[0])
    .join('; ');
}

/** Sends each record back once, 50 at a time, each client on a connection of its own. */
async function roundOverHttp(base: string, cookie: string, ids: readonly string[]): Promise<number> {
  const open = [...ids];
  const agent = new http.Agent({ keepAlive: true, maxSockets: CLIENTS });
  const body = '{"handOff":"backToRegistrar"}';
  const headers = { 'content-type': 'application/json', 'content-length': body.length, cookie, 'if-match': '"1"' };
  const handOn = (id: string): Promise<void> =>
    new Promise((resolve, reject) => {
      const request = http.request(`${base}/api/records/${id}/hand-offs`, { method: 'POST', agent, headers }, (response) => {
        response.resume().once('end', () => {
          if (response.statusCode === 200) resolve();
          else reject(new Error(`status ${response.statusCode}`));
        });
      });
      request.once('error', reject).end(body);
    });
  const start = Date.now();
  const work = async (): Promise<void> => {
    for (let id = open.pop(); id !== undefined; id = open.pop()) await handOn(id);
  };
  await Promise.all(Array.from({ length: CLIENTS }, work));
  agent.destroy();
  return (ids.length * 1000) / (Date.now() - start);
}

function roundOfPgbench(database: string, programs: string): number {
  const script = path.join(mkdtempSync(path.join(os.tmpdir(), 'ypomet-pgbench-')), 'hand-off.sql');
  writeFileSync(script, SCRIPT);
  const output = execFileSync(
    path.join(programs, 'pgbench'),
    ['-n', '-M', 'prepared', '-c', String(CLIENTS), '-j', '2', '-T', String(SECONDS), '-f', script, database],
    { encoding: 'utf8' },
  );
  return Number(/tps = ([\d.]+)/.exec(output)?.[1] ?? 0);
}
