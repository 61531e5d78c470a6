import { readFileSync } from 'node:fs';
import { conform, differing } from '@ypomet/conform/run';

/** `npm run conform -- FILE…`: a line for each case that differs, then `N passed, N failed`. Ends with 1 when one differs. */
function readJson(file: string): ReturnType<typeof conform> {
  try {
    return conform(JSON.parse(readFileSync(file, 'utf8')));
  } catch (error) {
    return { outcomes: [], faults: [error instanceof Error ? error.message : String(error)] };
  }
}

const files = process.argv.slice(2);
if (files.length === 0) {
  console.error('Which files? npm run conform -- conformance/*.json');
  process.exit(2);
}
let passed = 0;
let failed = 0;
for (const file of files) {
  const conformed = readJson(file);
  for (const fault of conformed.faults) console.log(`${file}: ${fault}`);
  const differ = differing(conformed);
  for (const one of differ) console.log(`${file}: ${one.case}\n    expected ${one.expected}\n    found    ${one.found}`);
  failed += differ.length + conformed.faults.length;
  passed += conformed.outcomes.length - differ.length;
}
console.log(`${passed} passed, ${failed} failed`);
process.exitCode = failed > 0 ? 1 : 0;
