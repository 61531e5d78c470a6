import { spawn, spawnSync } from 'node:child_process';
import {
  appendFileSync,
  chmodSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readdirSync,
  readFileSync,
  rmSync,
  statfsSync,
} from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseArgs } from 'node:util';
import pg from 'pg';
import { buildServer } from './build.mjs';
import { checkNode, ensurePackages } from './dependencies.mjs';
import { ensureDatabase, freePort, startPostgres } from './postgres.mjs';
import { fail, step } from './steps.mjs';
import { Clients } from './torture-clients.mjs';
import { Hostile, quantile } from './torture-hostile.mjs';

/**
 * Kills the server, PostgreSQL and its connections again and again while clients hand records on, freezes PostgreSQL, fills the
 * disk and starts a process whose clock is off; waits until every delivery of what was acknowledged has arrived, and then looks
 * whether anything was lost or done twice.
 *
 * `npm run torture -- --minutes 20`, or `--kills 50 --only postmaster` for a number of kills of one kind. `--servers 2` runs two
 * processes on one database, `--hostile` sends requests beside it that want too much, `--calm` harms nothing and so measures,
 * `--clients N` says how many hand on.
 */
/** What is done to the house, in turn, so that a short run tries most of it too. */
const ORDER = ['server', 'connections', 'postmaster', 'server', 'backend', 'connections', 'freeze', 'disk', 'clock'];
const text = { type: 'string' };
const flag = { type: 'boolean', default: false };
const { values: options } = parseArgs({
  options: { minutes: text, seconds: text, kills: text, only: text, servers: text, clients: text, hostile: flag, calm: flag },
});
const CLIENTS = Number(options.clients ?? 20);
const SERVERS = Number(options.servers ?? 1);
const METRICS_TOKEN = 'the-token-of-a-torture-run';
/** Longer than a statement may take, so that requests are given up while PostgreSQL is frozen. */
const FREEZE_MS = 15_000;
const DISK_FULL_MS = 5000;
/** Puts a process's clock two hours ahead, before anything else of it runs. */
const SKEWED_DATE = `const Real = Date; const ahead = 2 * 3600000;
globalThis.Date = class extends Real {
  constructor(...given) { if (given.length > 0) super(...given); else super(Real.now() + ahead); }
  static now() { return Real.now() + ahead; }
};`;
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
const ports = [];
for (let index = 0; index < SERVERS; index += 1) ports.push(await freePort());
const dataDir = path.join(folder, 'data');
const disk = mountSmall();
/** What servers write about faults: entries of their logs, and what Node tells when one ends. Kept where something was wrong. */
const saidPath = path.join(os.tmpdir(), `ypomet-torture-${process.pid}.log`);
const pause = (ms) => new Promise((resolve) => setTimeout(resolve, ms));
const isOneOf = (list) => list[Math.floor(Math.random() * list.length)];

const servers = [];
for (const port of ports) servers.push(await startServer(port));
const clients = new Clients(ports.map(baseOf));
await clients.signIn();
await clients.publishRouted();
const hostile = options.hostile ? new Hostile(baseOf(ports[0]), await clients.invite()) : null;
const MODES = ['answers', 'error', 'breaks', 'twice', 'hangs', 'no-json', 'answers'];
const kills = Object.fromEntries(ORDER.map((kind) => [kind, 0]));

step(`${CLIENTS} clients, with kills, until ${options.kills ? `${atMostKills} kills are done` : `${seconds} s are over`} …`);
const running = Promise.all([clients.run(CLIENTS), hostile?.run()]);
const end = Date.now() + seconds * 1000;
if (options.calm) await pause(seconds * 1000);
for (let turn = 0; !options.calm && Date.now() < end && turn < atMostKills; turn++) {
  await pause(300 + Math.random() * 1700);
  const kind = options.only ?? ORDER[turn % ORDER.length];
  kills[kind] += 1;
  await KILL()[kind]();
  await clients.setReceiver(isOneOf(MODES));
}
if (options.calm || hostile) await tellDelays();
clients.isStopping = true;
if (hostile) hostile.isStopping = true;
await running;

step('Looking at what is there …');
const found = await look();
if (hostile) found.faults.unshift(...tellHostile());
await stopServers('SIGTERM');
await postgres.stop();
disk?.unmount();
rmSync(folder, { recursive: true, force: true });
const total = Object.values(kills).reduce((a, b) => a + b, 0);
const counts = Object.entries(kills)
  .filter(([, count]) => count > 0)
  .map(([kind, count]) => `${kind} ${count}`);
step(
  `${total} kills (${counts.join(', ')}), ${clients.acknowledged.size} acknowledged, ${found.records} records, ${found.mails} mails.`,
);
for (const fault of found.faults.slice(0, 20)) process.stderr.write(`  ${fault}\n`);
if (found.faults.length > 20) process.stderr.write(`  and ${found.faults.length - 20} more\n`);
if (found.faults.length > 0) step(`What the servers logged: ${saidPath}`);
else rmSync(saidPath, { force: true });
process.exit(found.faults.length === 0 ? 0 : 1);

function KILL() {
  return {
    server: async () => {
      const index = Math.floor(Math.random() * SERVERS);
      await stopServer(index, 'SIGKILL');
      servers[index] = await startServer(ports[index]);
    },
    // As a machine that is suspended, or storage that hangs: nothing answers, and no connection breaks.
    freeze: async () => {
      const frozen = postgres.processes();
      for (const pid of frozen) signal(pid, 'SIGSTOP');
      await pause(FREEZE_MS);
      for (const pid of frozen) signal(pid, 'SIGCONT');
    },
    disk: async () => {
      if (!disk) return;
      disk.fill();
      await pause(DISK_FULL_MS);
      disk.empty();
    },
    clock: async () => {
      const port = await freePort();
      const skewed = await startServer(port, ['--import', `data:text/javascript,${encodeURIComponent(SKEWED_DATE)}`]);
      const health = await fetch(`${baseOf(port)}/api/health`).then(
        (answer) => answer.json(),
        () => null,
      );
      if (health && health.clock !== false && health.database)
        clients.refused.push('a process whose clock is off says that it is ready');
      await pause(2000);
      await endProcess(skewed, 'SIGTERM');
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

function baseOf(port) {
  return `http://127.0.0.1:${port}`;
}

function signal(pid, name) {
  try {
    process.kill(pid, name);
  } catch (error) {
    // It has ended meanwhile.
    if (error.code !== 'ESRCH') throw error;
  }
}

/** A small disk of its own for what the servers keep in files, which can be filled; null where this user can't mount one. */
function mountSmall() {
  mkdirSync(dataDir, { recursive: true });
  const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=2g', 'tmpfs', dataDir]);
  if (mounted.status !== 0) {
    step('No disk can be mounted here: that it is full is not tried.');
    return null;
  }
  const filler = path.join(dataDir, 'filler');
  return {
    fill: () => {
      const { bavail, bsize } = statfsSync(dataDir);
      spawnSync('fallocate', ['-l', String(bavail * bsize), filler]);
    },
    empty: () => rmSync(filler, { force: true }),
    unmount: () => spawnSync('umount', ['-l', dataDir]),
  };
}

async function startServer(port, more = []) {
  for (;;) {
    const child = spawn(process.execPath, [...more, 'apps/server/dist/main.js'], {
      stdio: ['ignore', 'pipe', openSync(saidPath, 'a')],
      env: {
        ...process.env,
        DATABASE_URL: databaseUrl,
        YPOMET_DATA: dataDir,
        YPOMET_DEMO: '1',
        YPOMET_METRICS_TOKEN: METRICS_TOKEN,
        PORT: String(port),
        LOG_LEVEL: 'error',
      },
    });
    const isReady = await new Promise((resolve) => {
      child.stdout.setEncoding('utf8').on('data', (said) => {
        if (/^ready /m.test(said)) resolve(true);
        else appendFileSync(saidPath, said);
      });
      child.once('exit', () => resolve(false));
    });
    if (isReady) {
      if (options.calm) preferred(child.pid);
      return child;
    }
    await pause(200);
  }
}

/** What is measured is the server's own delay, not that of a machine which clients share with it. */
function preferred(pid) {
  try {
    os.setPriority(pid, -10);
  } catch (error) {
    step(`The server can’t be preferred to its clients here (${error.code}): its figures hold theirs too.`);
  }
}

async function stopServer(index, name) {
  const child = servers[index];
  if (child.exitCode !== null || child.signalCode !== null) {
    clients.refused.push(`a server ended by itself: ${child.exitCode ?? child.signalCode}. ${lastSaid()}`);
    return;
  }
  await endProcess(child, name);
}

/** Returns the last fatal entries of the servers' logs, and what Node wrote of an error that nobody caught. */
function lastSaid() {
  const lines = readFileSync(saidPath, 'utf8').split('\n');
  const fatal = lines.filter((line) => line.includes('"level":60')).slice(-2);
  const end = lines.findLastIndex((line) => line.startsWith('Node.js v'));
  return [...fatal, ...(end < 0 ? [] : lines.slice(Math.max(0, end - 15), end))].join('\n    ');
}

async function endProcess(child, name) {
  const ended = new Promise((resolve) => child.once('exit', resolve));
  child.kill(name);
  await ended;
}

async function stopServers(name) {
  for (const index of servers.keys()) await stopServer(index, name);
}

/** Tells how long the event loops of the servers were held up since they started, by their own metrics. */
async function tellDelays() {
  for (const port of ports) {
    const headers = { authorization: `Bearer ${METRICS_TOKEN}` };
    const text = await fetch(`${baseOf(port)}/api/metrics`, { headers }).then(
      (answer) => answer.text(),
      () => '',
    );
    const delays = [...text.matchAll(/^ypomet_event_loop_delay_seconds\{quantile="([^"]+)"\} (\S+)$/gm)];
    step(
      `Event loop of port ${port}: ${delays.map(([, share, value]) => `${share} ${(Number(value) * 1000).toFixed(1)} ms`).join(', ')}.`,
    );
  }
}

/** Tells how the hostile requests were answered, and returns what is wrong with that. */
function tellHostile() {
  for (const [name, counts] of hostile.answers)
    step(`  ${name}: ${[...counts].map(([status, count]) => `${count} × ${status}`).join(', ')}`);
  const [middle, late] = [0.5, 0.999].map((share) => quantile(hostile.probes, share).toFixed(0));
  step(`${hostile.probes.length} probes, half within ${middle} ms, 99.9% within ${late} ms.`);
  return [...new Set(hostile.faults)];
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
  await stopServers('SIGTERM');
  await pool.query(
    `update graphile_worker._private_jobs set locked_at = locked_at - interval '10 minutes' where locked_at is not null`,
  );
  for (const [index, port] of ports.entries()) servers[index] = await startServer(port);
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
  const mailbox = path.join(dataDir, 'mailbox');
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
  const left = await rows(`select d.outlet, d.status, count(*)::int as count, count(j.id)::int as jobs,
      count(j.locked_at)::int as locked, max(j.attempts) as attempts, min(j.run_at) as "runAt", max(j.last_error) as error
    from deliveries d left join graphile_worker._private_jobs j on j.key = d.id::text
    where d.status in ('queued', 'waiting') group by d.outlet, d.status`);
  for (const one of left) step(`Nothing moved for 90 s: ${JSON.stringify(one)}`);
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
  const registers = path.join(dataDir, 'registers', 'Agreements');
  const lines = routed.length > 0 ? readFileSync(path.join(registers, 'routed.csv'), 'utf8').split('\r\n') : [];
  const written = routed.length > 0 ? readdirSync(path.join(registers, 'routed')) : [];
  const requests = path.join(dataDir, 'receiver');
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
