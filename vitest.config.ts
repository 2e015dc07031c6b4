import { defineConfig } from 'vitest/config';

const CORE = 'src/core/**/*.test.ts';

export default defineConfig({
  test: {
    environment: 'node',
    // Shells complain of a locale that is not installed, as one that came over ssh may be.
    env: process.platform === 'linux' ? { LC_ALL: 'C.UTF-8' } : {},
    globalSetup: ['./scripts/test-folder.ts'],
    setupFiles: ['./scripts/property-tests.ts'],
    // These end what hangs: on a busy machine everything takes longer, and nothing is judged by its speed.
    testTimeout: 180_000,
    hookTimeout: 180_000,
    reporters: ['default', './scripts/left-out.ts'],
    // One more than there would be on two cores: half of the time goes by waiting for interpreters.
    maxWorkers: 2,
    projects: [
      // The core keeps nothing between two calls: its tests share its modules, whose loading took as long as half of them.
      { extends: true, test: { name: 'core', include: [CORE], isolate: false } },
      { extends: true, test: { name: 'around', include: ['src/**/*.test.ts', 'demo/**/*.test.ts'], exclude: [CORE] } },
    ],
  },
});
