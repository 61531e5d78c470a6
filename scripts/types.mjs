import { run } from './steps.mjs';

/** Each part is checked with the environment it may use: the core without Node or a browser, the web without Node. */
const PROJECTS = ['packages/core', 'packages/contract', 'apps/server', 'apps/web', '.'];

export async function checkTypes() {
  for (const project of PROJECTS)
    await run(process.execPath, ['node_modules/typescript-7/bin/tsc', '-p', `${project}/tsconfig.json`]);
}

if (import.meta.url === `file://${process.argv[1]}`) await checkTypes();
