import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['src/**/*.test.ts', 'demo/**/*.test.ts'],
    environment: 'node',
    testTimeout: 60_000,
    // One more than there would be on two cores: half of the time goes by waiting for interpreters.
    maxWorkers: 2,
  },
});
