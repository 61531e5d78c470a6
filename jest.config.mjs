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
      moduleNameMapper: { '\\.css$': '<rootDir>/testing/class-names.ts' },
    }),
    project('server', 'apps/server'),
    project('scripts', 'scripts'),
  ],
  testTimeout: 60_000,
};
