import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { chmodSync, chownSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { fail, run, step } from './steps.mjs';

const isRoot = process.getuid?.() === 0;

/** The newest PostgreSQL on this machine, by its folder of programs; null when there is none. */
function findPrograms() {
  const debian = '/usr/lib/postgresql';
  const versions = existsSync(debian)
    ? readdirSync(debian)
        .map(Number)
        .filter((version) => version >= 13)
        .sort((a, b) => b - a)
    : [];
  for (const version of versions) {
    const folder = path.join(debian, String(version), 'bin');
    if (existsSync(path.join(folder, 'initdb'))) return folder;
  }
  const found = spawnSync('which', ['initdb'], { encoding: 'utf8' }).stdout?.trim();
  return found ? path.dirname(found) : null;
}

async function installPrograms() {
  if (!isRoot || !existsSync('/usr/bin/apt-get')) {
    fail(
      'PostgreSQL is needed and not installed. Install it (Debian: `apt-get install postgresql-15`), or set DATABASE_URL to a database of yours.',
    );
  }
  step('Installing PostgreSQL …');
  mkdirSync('/etc/postgresql-common/createcluster.d', { recursive: true });
  writeFileSync('/etc/postgresql-common/createcluster.d/no-main.conf', 'create_main_cluster = false\n');
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  await run('apt-get', ['update', '-qq'], { quiet: true, env });
  await run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'postgresql-15'], { quiet: true, env });
}

/** PostgreSQL refuses to run as root: then its programs run as `postgres`, or `nobody`. */
function serverUser() {
  if (!isRoot) return null;
  for (const name of ['postgres', 'nobody']) {
    const id = (flag) => Number(spawnSync('id', [flag, name], { encoding: 'utf8' }).stdout);
    const [uid, gid] = [id('-u'), id('-g')];
    if (uid > 0) return { uid, gid };
  }
  return fail('Running as root, and there is no user `postgres` or `nobody` to run PostgreSQL as.');
}

const asServer = (user, command, args) =>
  user ? ['setpriv', [`--reuid=${user.uid}`, `--regid=${user.gid}`, '--clear-groups', command, ...args]] : [command, args];

/** Whether another user can reach a folder: every parent needs to be passable. */
function isReachable(folder) {
  for (let at = path.resolve(folder); at !== path.dirname(at); at = path.dirname(at)) {
    if (existsSync(at) && (statSync(at).mode & 0o001) === 0) return false;
  }
  return true;
}

/** The data folder to use: the one wanted, or one under the system's temporary folder when PostgreSQL's user can't reach it. */
function placeData(wanted, user) {
  if (!user || isReachable(path.dirname(wanted))) return wanted;
  const name = `ypomet-${createHash('sha256').update(wanted).digest('hex').slice(0, 12)}`;
  const other = path.join(os.tmpdir(), name);
  step(
    `PostgreSQL’s user can’t reach ${wanted} (a parent folder is closed to others); its data goes to ${other}. YPOMET_DATA names another folder.`,
  );
  return other;
}

/** A free port on loopback. */
export const freePort = (wanted = 0) =>
  new Promise((resolve, reject) => {
    const probe = createServer();
    probe.once('error', (error) => (wanted === 0 ? reject(error) : freePort().then(resolve, reject)));
    probe.listen(wanted, '127.0.0.1', () => {
      const { port } = probe.address();
      probe.close(() => resolve(port));
    });
  });

/** The port of the server that runs on this data folder, or null: a stale pid file is known by its process being another's or gone. */
function runningPort(data) {
  const file = path.join(data, 'postmaster.pid');
  if (!existsSync(file)) return null;
  const [pid, , , port] = readFileSync(file, 'utf8').split('\n');
  try {
    const command = readFileSync(`/proc/${Number(pid)}/cmdline`, 'utf8');
    if (command.includes('postgres') && command.includes(data)) return Number(port);
  } catch (error) {
    if (error.code !== 'ENOENT') throw error;
  }
  rmSync(file, { force: true });
  return null;
}

/**
 * Starts a private PostgreSQL on loopback, or joins the one already running on this folder.
 * `durable: false` is for tests: faster, and not safe against a crash of the machine.
 */
export async function startPostgres(wanted, { durable = true } = {}) {
  if (!findPrograms()) await installPrograms();
  const programs = findPrograms();
  const user = serverUser();
  const data = placeData(wanted, user);
  const users = path.join(path.dirname(data), `${path.basename(data)}-users`);
  mkdirSync(users, { recursive: true });
  writeFileSync(path.join(users, String(process.pid)), '');
  if (!existsSync(path.join(data, 'PG_VERSION'))) {
    step('Making the database cluster …');
    mkdirSync(data, { recursive: true });
    if (user) chownSync(data, user.uid, user.gid);
    chmodSync(data, 0o700);
    const [command, args] = asServer(user, path.join(programs, 'initdb'), [
      '-D',
      data,
      '-U',
      'app',
      '--auth=trust',
      '-E',
      'UTF8',
      '--locale=C.UTF-8',
      '--no-sync',
    ]);
    await run(command, args, { quiet: true, cwd: os.tmpdir() });
  }
  const port = runningPort(data) ?? (await launch(programs, data, user, durable));
  const url = `postgres://app@127.0.0.1:${port}/`;
  return {
    url,
    port,
    programs,
    stop: () => release(programs, data, users, user),
    /** Kills it as a crash of the machine would, and starts it again on the same port. */
    crash: async () => {
      await killAll(data);
      await launch(programs, data, user, durable, port);
    },
    /** Its processes, the first one first. */
    processes: () => processesOf(data),
  };
}

/** The postmaster and its children. */
function processesOf(data) {
  const [pid] = readFileSync(path.join(data, 'postmaster.pid'), 'utf8').split('\n');
  const children = readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8');
  return [pid, ...children.trim().split(' ')].filter((one) => one !== '').map(Number);
}

async function killAll(data) {
  const pids = processesOf(data);
  for (const pid of pids) if (isAlive(pid)) process.kill(pid, 'SIGKILL');
  while (pids.some(isAlive)) await new Promise((resolve) => setTimeout(resolve, 20));
}

async function launch(programs, data, user, durable, fixedPort = null) {
  const log = path.join(data, 'server.log');
  const settings = [
    'listen_addresses=127.0.0.1',
    'unix_socket_directories=',
    'timezone=UTC',
    'max_connections=200',
    'shared_buffers=128MB',
  ];
  if (!durable) settings.push('fsync=off', 'full_page_writes=off');
  for (let attempt = 1; ; attempt++) {
    const port = fixedPort ?? (await freePort());
    const options = [`-p ${port}`, ...settings.map((setting) => `-c ${setting}`)].join(' ');
    const [command, args] = asServer(user, path.join(programs, 'pg_ctl'), [
      '-w',
      '-t',
      '60',
      '-D',
      data,
      '-l',
      log,
      '-o',
      options,
      'start',
    ]);
    try {
      await run(command, args, { quiet: true, cwd: os.tmpdir() });
      return port;
    } catch (error) {
      if (attempt === 3) throw new Error(`PostgreSQL did not start; its log is ${log}\n${error.message}`);
    }
  }
}

const isAlive = (pid) => {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return error.code === 'EPERM';
  }
};

/** Stops the server unless another start of this project still uses it. */
async function release(programs, data, users, user) {
  rmSync(path.join(users, String(process.pid)), { force: true });
  if (readdirSync(users).some((pid) => isAlive(Number(pid)))) return;
  const [command, args] = asServer(user, path.join(programs, 'pg_ctl'), ['-D', data, '-m', 'fast', '-t', '30', 'stop']);
  spawnSync(command, args, { stdio: 'ignore', cwd: os.tmpdir() });
}

/** Makes a database unless it is there. */
export function ensureDatabase({ programs, port }, name) {
  const psql = (...args) =>
    execFileSync(
      path.join(programs, 'psql'),
      ['-h', '127.0.0.1', '-p', String(port), '-U', 'app', '-d', 'postgres', '-tAc', ...args],
      { encoding: 'utf8' },
    );
  if (psql(`select 1 from pg_database where datname = '${name}'`).trim() !== '1') psql(`create database "${name}"`);
}
