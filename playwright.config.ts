import { defineConfig } from '@playwright/test';
import { chromiumOptions } from './e2e/support/chromium';

export default defineConfig({
  testDir: 'e2e',
  testMatch: '**/*.spec.ts',
  // Limits end what hangs: on a busy machine everything takes longer, and nothing is judged by its speed.
  timeout: 240_000,
  expect: { timeout: 30_000 },
  fullyParallel: false,
  workers: 2,
  reporter: [['list']],
  use: {
    actionTimeout: 30_000,
    navigationTimeout: 120_000,
    viewport: { width: 1280, height: 800 },
    launchOptions: chromiumOptions,
    // A trace of every action took a quarter of the tests' time; where one is needed: --trace on.
    screenshot: 'only-on-failure',
  },
});
