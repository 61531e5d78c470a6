import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { Stryker } from '@stryker-mutator/core';

/** The layers that decide. */
const LAYERS = ['expressions', 'forms', 'flow', 'decisions'];
const CORE = 'packages/core/src';
const BLOCK_LINES = 6;

const argument = (name, fallback) => {
  const at = process.argv.indexOf(`--${name}`);
  return at < 0 ? fallback : Number(process.argv[at + 1]);
};
const seed = argument('seed', 7);
const blocks = argument('blocks', 30);

/** The same row of numbers for the same seed (mulberry32, public domain). */
function makeRandom(start) {
  let state = start;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  };
}

function* sources(folder) {
  for (const entry of readdirSync(folder).sort()) {
    const at = path.join(folder, entry);
    if (statSync(at).isDirectory()) yield* sources(at);
    else if (at.endsWith('.ts') && !at.endsWith('.test.ts')) yield at;
  }
}

/** Every block of lines of the layers; some of them are drawn. */
const all = LAYERS.flatMap((layer) => [...sources(path.join(CORE, layer))]).flatMap((file) => {
  const lines = readFileSync(file, 'utf8').split('\n').length;
  return Array.from({ length: Math.ceil(lines / BLOCK_LINES) }, (_, index) => {
    const first = index * BLOCK_LINES + 1;
    return `${file}:${first}-${Math.min(lines, first + BLOCK_LINES - 1)}`;
  });
});
const random = makeRandom(seed);
const drawn = new Set();
while (drawn.size < Math.min(blocks, all.length)) drawn.add(all[Math.floor(random() * all.length)]);

process.stdout.write(`Mutating ${drawn.size} of ${all.length} blocks of ${BLOCK_LINES} lines, seed ${seed}.\n`);
const results = await new Stryker({
  mutate: [...drawn],
  testRunner: 'jest',
  testRunnerNodeArgs: ['--experimental-vm-modules', '--no-warnings'],
  jest: { projectType: 'custom', configFile: 'scripts/mutation.jest.config.mjs', enableFindRelatedTests: false },
  coverageAnalysis: 'perTest',
  ignoreStatic: true,
  ignorePatterns: ['apps', 'e2e', 'bench', 'dist', 'docs/screenshots', '.ypomet'],
  concurrency: 2,
  timeoutMS: 20_000,
  reporters: ['clear-text', 'progress-append-only'],
  clearTextReporter: { allowColor: false, logTests: false, reportTests: false, reportScoreTable: false },
  checkers: [],
  plugins: ['@stryker-mutator/jest-runner'],
  disableTypeChecks: false,
  allowEmpty: true,
}).runMutationTest();

const counts = {};
for (const { status } of results) counts[status] = (counts[status] ?? 0) + 1;
const killed = (counts.Killed ?? 0) + (counts.Timeout ?? 0);
const judged = killed + (counts.Survived ?? 0) + (counts.NoCoverage ?? 0);
const survived = results
  .filter(({ status }) => status === 'Survived' || status === 'NoCoverage')
  .map(({ fileName, location, mutatorName, replacement, status }) => ({
    at: `${path.relative('.', fileName)}:${location.start.line}`,
    mutator: mutatorName,
    replacement,
    status,
  }));
writeFileSync('reports-mutation.json', `${JSON.stringify({ seed, blocks: drawn.size, counts, survived }, null, 2)}\n`);
process.stdout.write(`\n${JSON.stringify(counts)}: ${((killed / judged) * 100).toFixed(1)} % of ${judged} mutants found out.\n`);
