import { randomBytes } from 'node:crypto';
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { buildServer, buildWeb } from './build.mjs';
import { checkNode, ensurePackages } from './dependencies.mjs';
import { startPostgres } from './postgres.mjs';
import { fail, run, step } from './steps.mjs';

checkNode();
await ensurePackages();
const { checkTypes } = await import('./types.mjs');

let passed = 0;
let failed = 0;

/** Runs one part of the tests; a part that fails is counted and the rest still runs. */
async function part(name, work) {
  step(name);
  try {
    await work();
  } catch (error) {
    process.stderr.write(`${error.message}\n`);
    return false;
  }
  return true;
}

/** A check without cases of its own counts as one. */
async function check(name, work) {
  if (await part(name, work)) passed += 1;
  else failed += 1;
}

const bin = (name) => path.join('node_modules', '.bin', name);

await check('Types …', checkTypes);
await check('Lint and format …', () => run(bin('biome'), ['check', '--error-on-warnings', '.']));
await check('Arrows between the parts …', () =>
  run(bin('depcruise'), ['--config', '.dependency-cruiser.cjs', 'packages', 'apps', 'e2e']),
);

await ensurePrograms();
step('Starting PostgreSQL for the tests …');
const folder = mkdtempSync(path.join(os.tmpdir(), 'ypomet-test-'));
chmodSync(folder, 0o755);
const postgres = await startPostgres(path.join(folder, 'postgres'), { durable: false });
// Databases and folders that are filled once for this run bear its name.
const testRun = randomBytes(6).toString('hex');
const env = {
  ...process.env,
  YPOMET_TEST_RUN: testRun,
  YPOMET_TEST_POSTGRES: postgres.url,
  NODE_OPTIONS: '--experimental-vm-modules --no-warnings',
};
mkdirSync('test-results', { recursive: true });

/** Adds the counts of a JSON report; a part that ended badly without a failed case counts as one. */
function count(report, isWell) {
  const before = failed;
  if (existsSync(report.file)) {
    const json = JSON.parse(readFileSync(report.file, 'utf8'));
    const { ok, bad } = report.read(json);
    passed += ok;
    failed += bad;
    tellSlowest(report.files(json));
  }
  if (!isWell && failed === before) failed += 1;
}

/** How many of the slowest files are named after each part. */
const SLOWEST = 10;

/** Names the slowest files, so that whoever waits knows what for. `files`: pairs of a file and its milliseconds. */
function tellSlowest(files) {
  const slowest = files.sort(([, a], [, b]) => b - a).slice(0, SLOWEST);
  if (slowest.length === 0) return;
  step(`The slowest of ${files.length} files:`);
  for (const [file, ms] of slowest)
    process.stdout.write(`  ${(ms / 1000).toFixed(1).padStart(6)} s  ${path.relative('.', file)}\n`);
}

/** The files of a browser report with how long their tests took together. */
const browserFiles = ({ suites = [] }) => {
  const duration = (suite) =>
    [...(suite.specs ?? [])]
      .flatMap(({ tests }) => tests.flatMap(({ results }) => results.map((one) => one.duration)))
      .reduce((a, b) => a + b, 0) + (suite.suites ?? []).reduce((sum, inner) => sum + duration(inner), 0);
  return suites.map((suite) => [path.join('e2e', suite.file), duration(suite)]);
};

const unitReport = {
  file: 'test-results/unit.json',
  read: (json) => ({ ok: json.numPassedTests, bad: json.numFailedTests + json.numRuntimeErrorTestSuites }),
  files: ({ testResults }) => testResults.map(({ name, startTime, endTime }) => [name, endTime - startTime]),
};
rmSync(unitReport.file, { force: true });
const filter = process.argv.slice(2);
const isUnitWell = await part('Unit and server tests …', () =>
  // Tests that leave something open when they fail don't keep the run from ending.
  run(
    process.execPath,
    ['node_modules/jest/bin/jest.js', '--forceExit', '--maxWorkers=100%', '--json', `--outputFile=${unitReport.file}`, ...filter],
    {
      env,
    },
  ),
);
count(unitReport, isUnitWell);

if (filter.length === 0) {
  const browserReport = {
    file: 'test-results/e2e.json',
    read: (json) => ({ ok: json.stats.expected + json.stats.flaky, bad: json.stats.unexpected }),
    files: browserFiles,
  };
  rmSync(browserReport.file, { force: true });
  const isBrowserWell = await part('Browser tests …', async () => {
    await buildServer();
    await buildWeb();
    await run(bin('playwright'), ['test', '--config', 'e2e/playwright.config.ts'], { env: { ...env, NODE_OPTIONS: '' } });
  });
  count(browserReport, isBrowserWell);
  await check('Kills under load …', () => run(process.execPath, ['scripts/torture.mjs', '--seconds', '15']));
}

await postgres.stop();
rmSync(folder, { recursive: true, force: true });
for (const name of readdirSync(os.tmpdir()))
  if (name.includes(testRun)) rmSync(path.join(os.tmpdir(), name), { recursive: true, force: true });
step('Done.');
process.stdout.write(`\n${passed} passed, ${failed} failed\n`);
process.exit(failed === 0 ? 0 : 1);

/** Debian's packages that the tests call: a browser, and what reads PDFs back. */
async function ensurePrograms() {
  const missing = [
    [process.env.CHROMIUM ?? '/usr/bin/chromium', 'chromium'],
    ['/usr/bin/pdftotext', 'poppler-utils'],
  ].flatMap(([place, name]) => (existsSync(place) ? [] : [name]));
  if (missing.length === 0) return;
  if (process.getuid?.() !== 0 || !existsSync('/usr/bin/apt-get'))
    fail(
      `The tests need ${missing.join(' and ')}. Install them (Debian: \`apt-get install ${missing.join(' ')}\`); CHROMIUM can name the browser’s path.`,
    );
  step(`Installing ${missing.join(' and ')} …`);
  const quiet = { quiet: true, env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } };
  await run('apt-get', ['update', '-qq'], quiet);
  await run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...missing], quiet);
}
