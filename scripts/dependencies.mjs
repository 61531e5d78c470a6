import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { run, step } from './steps.mjs';

const STAMP = 'node_modules/.ypomet-lock';

/** Installs the npm packages of the lock file, unless they are there already. */
export async function ensurePackages() {
  const lock = createHash('sha256').update(readFileSync('package-lock.json')).digest('hex');
  if (existsSync(STAMP) && readFileSync(STAMP, 'utf8') === lock) return;
  step('Installing npm packages (a minute or two) …');
  await run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']);
  writeFileSync(STAMP, lock);
}

/** Refuses Node versions the packages don't run on. */
export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major > 20 || (major === 20 && minor >= 19)) return;
  process.stderr.write(`Ypomet needs Node 20.19 or later; this is ${process.versions.node}.\n`);
  process.exit(1);
}
