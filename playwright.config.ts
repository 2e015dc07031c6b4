import { defineConfig } from '@playwright/test';
import { chromiumOptions } from './e2e/support/chromium';

export default defineConfig({
  testDir: 'e2e',
  testMatch: '**/*.spec.ts',
  timeout: 120_000,
  expect: { timeout: 10_000 },
  fullyParallel: false,
  workers: 2,
  // What passes only the second time is named as flaky, and is a fault to be found; it stops nobody's work meanwhile.
  retries: 1,
  reporter: [['list']],
  use: {
    actionTimeout: 10_000,
    viewport: { width: 1280, height: 800 },
    launchOptions: chromiumOptions,
    // A trace of every action took a quarter of the tests' time; where one is needed: --trace on.
    screenshot: 'only-on-failure',
  },
});
