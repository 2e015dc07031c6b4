// Bundles what runs in Node beside the Astro server: the command line, the ingest worker, the demo.

import { rmSync } from 'node:fs';
import { build } from 'esbuild';
import manifest from '../package.json' with { type: 'json' };
import { markBuilt } from './built.mjs';

rmSync('dist/node', { recursive: true, force: true });

await build({
  entryPoints: {
    cli: 'src/cli/main.ts',
    'ingest-worker': 'src/server/ingest/worker.ts',
    'ingest-reader': 'src/server/ingest/reader.ts',
    'diagnosis-worker': 'src/server/ingest/diagnosis-worker.ts',
    'find-worker': 'src/server/find/worker.ts',
    'rehearsal-worker': 'src/server/rehearsal/worker.ts',
    'hand-off-worker': 'src/server/hand-off/worker.ts',
    'analyst-worker': 'src/server/hand-off/analyst-worker.ts',
  },
  outdir: 'dist/node',
  bundle: true,
  splitting: true,
  format: 'esm',
  platform: 'node',
  target: 'node20',
  // What the package depends on is installed beside it; everything else goes into the bundle.
  external: Object.keys(manifest.dependencies),
  // Bundled CommonJS asks for Node's own modules by require.
  banner: {
    js: "import { createRequire as createRequireHere } from 'node:module'; const require = createRequireHere(import.meta.url);",
  },
  // Its other entry reads files of its own from where it lies.
  alias: { 'css-tree': 'css-tree/dist/csstree.esm' },
  sourcemap: true,
  logLevel: 'warning',
});

markBuilt();
