import { spawn } from 'node:child_process';
import { chmodSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseArgs } from 'node:util';
import pg from 'pg';
import { buildServer } from './build.mjs';
import { checkNode, ensurePackages } from './dependencies.mjs';
import { ensureDatabase, freePort, startPostgres } from './postgres.mjs';
import { fail, step } from './steps.mjs';
import { Clients } from './torture-clients.mjs';

/**
 * Kills the server, PostgreSQL and its connections again and again while clients hand records on, waits until every delivery
 * of what was acknowledged has arrived, and then looks whether anything was lost or done twice.
 * `npm run torture -- --minutes 20`, or `npm run torture -- --kills 50 --only postmaster` for a number of kills of one kind.
 */
const CLIENTS = 20;
/** The kinds of kills in turn, so that a short run tries them all too. */
const ORDER = ['server', 'connections', 'postmaster', 'server', 'backend', 'connections'];
const { values: options } = parseArgs({
  options: { minutes: { type: 'string' }, seconds: { type: 'string' }, kills: { type: 'string' }, only: { type: 'string' } },
});
const atMostKills = options.kills ? Number(options.kills) : Number.POSITIVE_INFINITY;
const seconds = options.minutes ? Number(options.minutes) * 60 : Number(options.seconds ?? (options.kills ? 3600 : 60));
if (!(seconds > 0) || !(atMostKills > 0)) fail('Say how long: --minutes N, --seconds N, or --kills N.');
if (options.only && !ORDER.includes(options.only)) fail(`--only takes one of ${[...new Set(ORDER)].join(', ')}.`);

checkNode();
await ensurePackages();
await buildServer();
const folder = mkdtempSync(path.join(os.tmpdir(), 'ypomet-torture-'));
chmodSync(folder, 0o755);
step('Starting a durable PostgreSQL …');
const postgres = await startPostgres(path.join(folder, 'postgres'));
ensureDatabase(postgres, 'torture');
const databaseUrl = `${postgres.url}torture`;
const port = await freePort();
const base = `http://127.0.0.1:${port}`;
const pause = (ms) => new Promise((resolve) => setTimeout(resolve, ms));
const isOneOf = (list) => list[Math.floor(Math.random() * list.length)];

let server = await startServer();
const clients = new Clients(base);
await clients.signIn();
await clients.publishRouted();
const MODES = ['answers', 'error', 'breaks', 'twice', 'hangs', 'no-json', 'answers'];
const kills = { server: 0, postmaster: 0, connections: 0, backend: 0 };

step(`${CLIENTS} clients, with kills, until ${options.kills ? `${atMostKills} kills are done` : `${seconds} s are over`} …`);
const running = clients.run(CLIENTS);
const end = Date.now() + seconds * 1000;
for (let turn = 0; Date.now() < end && turn < atMostKills; turn++) {
  await pause(300 + Math.random() * 1700);
  const kind = options.only ?? ORDER[turn % ORDER.length];
  kills[kind] += 1;
  await KILL()[kind]();
  await clients.setReceiver(isOneOf(MODES));
}
clients.isStopping = true;
await running;

step('Looking at what is there …');
const found = await look();
await stopServer('SIGTERM');
await postgres.stop();
rmSync(folder, { recursive: true, force: true });
const total = Object.values(kills).reduce((a, b) => a + b, 0);
const counts = Object.entries(kills).map(([kind, count]) => `${kind} ${count}`);
step(
  `${total} kills (${counts.join(', ')}), ${clients.acknowledged.size} acknowledged, ${found.records} records, ${found.mails} mails.`,
);
for (const fault of found.faults.slice(0, 20)) process.stderr.write(`  ${fault}\n`);
process.exit(found.faults.length === 0 ? 0 : 1);

function KILL() {
  return {
    server: async () => {
      await stopServer('SIGKILL');
      server = await startServer();
    },
    postmaster: () => postgres.crash(),
    // As an administrator, or a network between them, would.
    connections: () =>
      withClient((client) =>
        client.query(
          `select pg_terminate_backend(pid) from pg_stat_activity where datname = 'torture' and pid <> pg_backend_pid() and random() < 0.7`,
        ),
      ),
    // PostgreSQL takes all of its connections down when one of its processes is killed, and recovers.
    backend: async () => {
      const [, ...children] = postgres.processes();
      const one = isOneOf(children);
      if (one) process.kill(one, 'SIGKILL');
    },
  };
}

async function startServer() {
  for (;;) {
    const child = spawn(process.execPath, ['apps/server/dist/main.js'], {
      stdio: ['ignore', 'pipe', 'ignore'],
      env: {
        ...process.env,
        DATABASE_URL: databaseUrl,
        YPOMET_DATA: path.join(folder, 'data'),
        YPOMET_DEMO: '1',
        PORT: String(port),
        LOG_LEVEL: 'fatal',
      },
    });
    const isReady = await new Promise((resolve) => {
      child.stdout.setEncoding('utf8').on('data', (text) => /^ready /m.test(text) && resolve(true));
      child.once('exit', () => resolve(false));
    });
    if (isReady) return child;
    await pause(200);
  }
}

async function stopServer(signal) {
  if (server.exitCode !== null || server.signalCode !== null) {
    clients.refused.push(`the server ended by itself: ${server.exitCode ?? server.signalCode}`);
    return;
  }
  const ended = new Promise((resolve) => server.once('exit', resolve));
  server.kill(signal);
  await ended;
}

/** Works with a connection of its own; what breaks it is no matter here. */
async function withClient(work) {
  const client = new pg.Client({ connectionString: databaseUrl, application_name: 'torture' });
  client.on('error', () => undefined);
  try {
    await client.connect();
    return await work(client);
  } catch (error) {
    return error;
  } finally {
    await client.end().catch(() => undefined);
  }
}

/** What was acknowledged is there, once; histories have no gaps; every mail was sent, and lies in the mailbox. */
async function look() {
  const pool = new pg.Pool({ connectionString: databaseUrl, max: 2 });
  pool.on('error', () => undefined);
  const rows = async (text, values) => (await pool.query(text, values)).rows;
  const faults = [...clients.refused];
  // A killed server's jobs are taken over when it has been silent for minutes: here the minutes pass at once.
  await stopServer('SIGTERM');
  await pool.query(
    `update graphile_worker._private_jobs set locked_at = locked_at - interval '10 minutes' where locked_at is not null`,
  );
  server = await startServer();
  await clients.setReceiver('answers');
  await untilAllHaveArrived(rows, pool);
  const records = await rows(`select r.id, r.revision, r.values ->> 'borrower' as key,
      array(select e.revision from record_events e where e.record = r.id and e.event ->> 'type' = 'handed-on' order by e.id) as history
    from records r where r.values ->> 'borrower' like 'begin-%'`);
  const byId = new Map(records.map((record) => [record.id, record]));
  for (const [key, { kind, id, revision }] of clients.acknowledged) {
    if (kind === 'routed') continue;
    const record = byId.get(id);
    if (!record) faults.push(`${key}: acknowledged, and its record ${id} isn’t there`);
    else if (record.revision < revision)
      faults.push(`${key}: acknowledged with revision ${revision}, and it is ${record.revision}`);
  }
  const begun = new Map();
  for (const { key } of records) begun.set(key, (begun.get(key) ?? 0) + 1);
  for (const [key, count] of begun) if (count > 1) faults.push(`${key}: begun ${count} times`);
  for (const { id, revision, history } of records) {
    const isWhole = history.length === revision && history.every((one, index) => one === index + 1);
    if (!isWhole) faults.push(`record ${id} of revision ${revision} has the history ${history.join(' ')}`);
  }
  const deliveries = await rows(`select d.id, d.status, d.fault from deliveries d join records r on r.id = d.record
    where r.values ->> 'borrower' like 'begin-%'`);
  const mailbox = path.join(folder, 'data', 'mailbox');
  const mails = readdirSync(mailbox)
    .filter((file) => file.endsWith('.eml'))
    .map((file) => readFileSync(path.join(mailbox, file), 'utf8'));
  const arrived = new Set(mails.flatMap((mail) => /^message-id:\s*<([0-9a-f-]{36})/im.exec(mail)?.[1] ?? []));
  for (const { id, status, fault: error } of deliveries) {
    if (status !== 'sent') faults.push(`mail ${id} is ${status}: ${error ?? ''}`);
    else if (!arrived.has(id)) faults.push(`mail ${id} is sent, and isn’t in the mailbox`);
  }
  faults.push(...(await lookAtRouted(rows)));
  await pool.end();
  return { faults, records: records.length, mails: deliveries.length };
}

/**
 * Waits until no delivery is queued or waiting for a person. Deliveries that wait (the receiver's answer didn't fit, or a kill
 * cut their last attempt off) are tried again as a person would, and pauses after failed attempts are cut short. Gives up when
 * the number of open deliveries hasn't fallen for 90 s: those that are left are then reported as faults.
 */
async function untilAllHaveArrived(rows, pool) {
  for (let [fewest, idleSeconds] = [Number.POSITIVE_INFINITY, 0]; idleSeconds < 90; idleSeconds++) {
    const open = await rows(`select outlet, count(*)::int as count, count(*) filter (where status = 'waiting')::int as waiting
      from deliveries where status in ('queued', 'waiting') group by outlet`);
    const count = open.reduce((sum, one) => sum + one.count, 0);
    if (count === 0) return;
    for (const { outlet, waiting } of open) if (waiting > 0) await clients.tryAgain(outlet);
    if (idleSeconds % 5 === 0) {
      await pool.query('update graphile_worker._private_jobs set run_at = now() where run_at > now()');
      await pool.query(`update deliveries set next_at = now() where next_at is not null and status = 'queued'`);
    }
    if (count < fewest) [fewest, idleSeconds] = [count, 0];
    await pause(1000);
  }
}

/** Every routed record opened what it opens, once; each of its deliveries arrived, and is in the registers once. */
async function lookAtRouted(rows) {
  const faults = [];
  const routed = await rows(`select r.id, r.values ->> 'key' as key, r.values ->> 'quote' as quote,
      (select count(*)::int from records f where f.opened_by = r.id) as opened,
      (select count(distinct f.number)::int from records f where f.opened_by = r.id) as numbers,
      (select count(*)::int from deliveries d where d.record = r.id) as sent,
      (select array_agg(d.kind || ' ' || d.status || ' ' || coalesce(d.fault::text, '')) from deliveries d where d.record = r.id and d.status <> 'sent') as left
    from records r where r.workflow = 'routed'`);
  const known = new Set(routed.map(({ id }) => id));
  for (const [key, { kind, id }] of clients.acknowledged)
    if (kind === 'routed' && !known.has(id)) faults.push(`${key}: acknowledged, and its record ${id} isn’t there`);
  const registers = path.join(folder, 'data', 'registers', 'Agreements');
  const lines = routed.length > 0 ? readFileSync(path.join(registers, 'routed.csv'), 'utf8').split('\r\n') : [];
  const written = routed.length > 0 ? readdirSync(path.join(registers, 'routed')) : [];
  const requests = path.join(folder, 'data', 'receiver');
  const asked = readdirSync(requests)
    .filter((file) => file.endsWith('.json'))
    .map((file) => JSON.parse(readFileSync(path.join(requests, file), 'utf8')));
  const loans = new Set(asked.map(({ body }) => JSON.parse(body).loan));
  for (const { id, key, opened, numbers, sent, left, quote } of routed) {
    if (opened !== 2 || numbers !== 2) faults.push(`${key}: opened ${opened} records with ${numbers} numbers`);
    if (sent !== 4 || left) faults.push(`${key}: of ${sent} deliveries not sent: ${left ?? 'none'}`);
    const rowsOf = lines.filter((line) => line === key).length;
    if (rowsOf !== 1) faults.push(`${key}: ${rowsOf} rows in the register`);
    const files = written.filter((name) => name.startsWith(`${key}.`) || name.startsWith(`${key}-`)).length;
    if (files !== 1) faults.push(`${key}: ${files} files in the register`);
    if (!loans.has(key)) faults.push(`${key}: the endpoint was never asked`);
    // A receiver that broke off has taken the request in, and its answer of the next attempt is the one that counts.
    if (quote !== `Q-${key}`) faults.push(`record ${id} has the quote ${quote}, not its own`);
  }
  step(`${routed.length} records that sent by every outlet, ${asked.length} requests for them.`);
  return faults;
}
