/** The tests that mutants are held against: the core's own and the conformance cases, without those that test the tests' tools or take minutes. */
export default {
  rootDir: `${import.meta.dirname}/..`,
  testMatch: ['<rootDir>/packages/core/src/**/*.test.ts', '<rootDir>/packages/conform/src/**/*.test.ts'],
  testPathIgnorePatterns: ['/node_modules/', 'hostile', 'feelin', 'lezer', 'other-languages'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  moduleNameMapper: {
    '^@ypomet/core$': '<rootDir>/packages/core/src/index.ts',
    '^@ypomet/core/(.*)$': '<rootDir>/packages/core/src/$1.ts',
    '^@ypomet/testkit/(.*)$': '<rootDir>/packages/testkit/testing/$1.ts',
    '^@ypomet/conform/(.*)$': '<rootDir>/packages/conform/src/$1.ts',
    '^#pattern-engine$': '<rootDir>/packages/core/src/expressions/builtins/pattern-engine.ts',
  },
  transform: {
    '^.+\\.tsx?$': ['@swc/jest', { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' }, module: { type: 'es6' } }],
  },
  setupFiles: ['<rootDir>/scripts/mutation.setup.mjs'],
  testTimeout: 60_000,
};
