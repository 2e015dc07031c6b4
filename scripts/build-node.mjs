// Bundles what runs in Node beside the Astro server: the command line, the ingest worker, the demo.
import { rmSync } from 'node:fs';
import { build } from 'esbuild';

rmSync('dist/node', { recursive: true, force: true });

await build({
  entryPoints: {
    cli: 'src/cli/main.ts',
    'ingest-worker': 'src/server/ingest/worker.ts',
    'find-worker': 'src/server/find/worker.ts',
  },
  outdir: 'dist/node',
  bundle: true,
  splitting: true,
  format: 'esm',
  platform: 'node',
  target: 'node20',
  packages: 'external',
  sourcemap: true,
  logLevel: 'warning',
});
