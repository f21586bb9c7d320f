import { defineConfig } from '@playwright/test';

/** Browser tests on Debian's Chromium, against the server that scripts/test.mjs has started. */
export default defineConfig({
  testDir: './e2e',
  outputDir: '../test-results',
  fullyParallel: true,
  workers: 2,
  // Far over what anything takes, for a machine that is shared.
  timeout: 300_000,
  expect: { timeout: 60_000 },
  forbidOnly: Boolean(process.env.CI),
  reporter: [['list'], ...(process.env.E2E_REPORT ? [['json', { outputFile: process.env.E2E_REPORT }] as const] : [])],
  use: {
    baseURL: process.env.E2E_URL ?? 'http://127.0.0.1:4890',
    viewport: { width: 1280, height: 800 },
    // Recording takes a third of the time: on when a failure is looked into.
    trace: process.env.E2E_TRACE ? 'retain-on-failure' : 'off',
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium-headless-shell',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
