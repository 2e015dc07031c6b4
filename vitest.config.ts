import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['src/**/*.test.ts', 'demo/**/*.test.ts'],
    environment: 'node',
    globalSetup: ['./scripts/test-folder.ts'],
    setupFiles: ['./scripts/property-tests.ts'],
    // These end what hangs: on a busy machine everything takes longer, and nothing is judged by its speed.
    testTimeout: 180_000,
    hookTimeout: 180_000,
    reporters: ['default', './scripts/left-out.ts'],
    // One more than there would be on two cores: half of the time goes by waiting for interpreters.
    maxWorkers: 2,
  },
});
