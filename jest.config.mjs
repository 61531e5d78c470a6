import { randomBytes } from 'node:crypto';

// What is filled once for a whole run bears the run's name; the processes of the run inherit it.
process.env.YPOMET_TEST_RUN ??= randomBytes(6).toString('hex');

const swc = [
  '@swc/jest',
  {
    jsc: { parser: { syntax: 'typescript', tsx: true }, target: 'es2022', transform: { react: { runtime: 'automatic' } } },
    module: { type: 'es6' },
  },
];

const project = (displayName, root, more = {}) => ({
  displayName,
  rootDir: `${import.meta.dirname}/${root}`,
  testMatch: ['**/*.test.ts'],
  testPathIgnorePatterns: ['/node_modules/', '/dist/'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: { '^.+\\.tsx?$': swc },
  ...more,
});

export default {
  projects: [
    project('core', 'packages/core'),
    project('contract', 'packages/contract'),
    project('conform', 'packages/conform'),
    // Components run in a page of jsdom's; everything else of the web needs none.
    project('web', 'apps/web', {
      testMatch: ['**/*.test.ts', '**/*.test.tsx'],
      moduleNameMapper: { '\\.css$': '<rootDir>/testing/class-names.ts', '^virtual:': '<rootDir>/testing/worker-address.ts' },
    }),
    project('server', 'apps/server'),
    project('scripts', 'scripts'),
  ],
  // Tests wait for what they expect; this is for those that would wait for ever.
  testTimeout: 240_000,
};
