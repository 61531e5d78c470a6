import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { buildServer, buildWeb } from './build.mjs';
import { checkNode, ensurePackages } from './dependencies.mjs';
import { ensureDatabase, startPostgres } from './postgres.mjs';
import { run, step } from './steps.mjs';

checkNode();
await ensurePackages();
await buildServer();
await buildWeb();
const folder = mkdtempSync(path.join(os.tmpdir(), 'ypomet-bench-'));
chmodSync(folder, 0o755);
step('Starting a durable PostgreSQL …');
const postgres = await startPostgres(path.join(folder, 'postgres'));
ensureDatabase(postgres, 'bench');
step('Measuring …');
try {
  await run(process.execPath, ['--expose-gc', '--import', 'tsx', 'bench/main.ts'], {
    env: { ...process.env, BENCH_POSTGRES: postgres.url, BENCH_PROGRAMS: postgres.programs, YPOMET_TEST_POSTGRES: postgres.url },
  });
} finally {
  await postgres.stop();
  rmSync(folder, { recursive: true, force: true });
}
