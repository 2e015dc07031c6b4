// npm test: everything from a fresh clone to the last browser test.
import { ensureBuilt, ensurePackages, ensureTools, run, start } from './ready.mjs';

ensurePackages();
ensureTools();
run('npx', 'astro', 'sync', '--silent');
// Neither needs the build, nor what it writes.
const checked = [start('npm', 'run', '--silent', 'lint'), start('npm', 'run', '--silent', 'types')];
ensureBuilt();
await Promise.all(checked);
run('npm', 'run', '--silent', 'unit');
run('npm', 'run', '--silent', 'fuzz', '--', '--seconds', '18');
run('npm', 'run', '--silent', 'e2e');
