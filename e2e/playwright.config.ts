import { randomBytes } from 'node:crypto';
import { defineConfig } from '@playwright/test';

// What is filled once for a whole run bears the run's name; the processes of the run inherit it.
process.env.YPOMET_TEST_RUN ??= randomBytes(6).toString('hex');

export default defineConfig({
  testDir: '.',
  timeout: 300_000,
  // Two cores may be busy with other copies of this.
  expect: { timeout: 15_000 },
  // A browser and its server keep a core busy between them.
  workers: 2,
  retries: 0,
  reporter: [['list'], ['json', { outputFile: '../test-results/e2e.json' }]],
  outputDir: '../test-results/e2e',
  use: {
    viewport: { width: 1280, height: 800 },
    trace: 'retain-on-failure',
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
      args: ['--disable-gpu', '--disable-quic', '--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost'],
    },
  },
});
