import { spawn } from 'node:child_process';
import path from 'node:path';
import { buildServer, buildWeb } from './build.mjs';
import { checkNode, ensurePackages } from './dependencies.mjs';
import { ensureDatabase, freePort, startPostgres } from './postgres.mjs';
import { fail, step } from './steps.mjs';

const dataDir = path.resolve(process.env.YPOMET_DATA ?? '.ypomet');

checkNode();
await ensurePackages();
await buildServer();
await buildWeb();

let postgres = null;
let databaseUrl = process.env.DATABASE_URL;
if (!databaseUrl) {
  step('Starting PostgreSQL …');
  postgres = await startPostgres(path.join(dataDir, 'postgres'));
  ensureDatabase(postgres, 'ypomet');
  databaseUrl = `${postgres.url}ypomet`;
}

step('Starting Ypomet …');
const port = process.env.PORT ?? String(await freePort(4180));
const server = spawn(process.execPath, ['--enable-source-maps', 'apps/server/dist/main.js'], {
  stdio: ['ignore', 'pipe', 'inherit'],
  env: {
    LOG_LEVEL: 'warn',
    YPOMET_DEMO: '1',
    YPOMET_DEMO_HISTORY: '1',
    ...process.env,
    PORT: port,
    YPOMET_ADDRESS: process.env.YPOMET_ADDRESS ?? `http://${process.env.HOST ?? '127.0.0.1'}:${port}`,
    DATABASE_URL: databaseUrl,
    YPOMET_DATA: dataDir,
    YPOMET_WEB: path.resolve('apps/web/dist'),
  },
});

server.stdout.setEncoding('utf8');
server.stdout.on('data', (text) => {
  const ready = /^ready (\S+)$/m.exec(text);
  if (ready)
    step(
      `Ypomet is ready: ${ready[1]}\n         Sign in as any of the people listed there. Stop with Ctrl-C; everything is kept in ${dataDir}.`,
    );
  else process.stdout.write(text);
});

let isStopping = false;
function stop(signal) {
  isStopping = true;
  server.kill(signal);
}
process.on('SIGINT', () => stop('SIGINT'));
process.on('SIGTERM', () => stop('SIGTERM'));

server.on('exit', async (code) => {
  await postgres?.stop();
  if (!isStopping && code !== 0) fail(`The server ended with ${code}.`);
  process.exit(0);
});
