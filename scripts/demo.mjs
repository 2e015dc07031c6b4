// npm run demo: everything from a fresh clone to the running demo.
import { pathToFileURL } from 'node:url';
import { ensureBuilt, ensurePackages, root } from './ready.mjs';

ensurePackages();
ensureBuilt();
process.argv = [process.argv[0], 'trazado', 'demo', ...process.argv.slice(2)];
await import(new URL('dist/node/cli.js', pathToFileURL(root)).href);
