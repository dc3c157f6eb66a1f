import { defineConfig } from '@playwright/test';

/** The real thing: browser, server, worker, MariaDB, stand-ins. Started by `npm test -- e2e`, which builds it first. */
export default defineConfig({
  testDir: 'tests',
  // One stack, and two cores: side by side they would only wait for one another.
  workers: 1,
  timeout: 240_000,
  expect: { timeout: 30_000 },
  reporter: [['list']],
  outputDir: '../.test-data/e2e-results',
  use: {
    viewport: { width: 1280, height: 800 },
    contextOptions: { reducedMotion: 'reduce' },
    trace: 'off',
    launchOptions: {
      executablePath: process.env['CHROME_BIN'] ?? '/usr/bin/chromium',
      args: [
        '--disable-gpu',
        '--disable-dev-shm-usage',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
