// npm start: everything from a fresh clone to the app on the user's own shelf. Takes the options of "trazado serve".
import { pathToFileURL } from 'node:url';
import { ensureBuilt, ensurePackages, root } from './ready.mjs';

const [, , ...given] = process.argv;
ensurePackages();
ensureBuilt();
process.argv = [process.argv[0], 'trazado', 'serve', ...given];
await import(new URL('dist/node/cli.js', pathToFileURL(root)).href);
