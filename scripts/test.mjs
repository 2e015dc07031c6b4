// npm test: everything from a fresh clone to the last browser test.
import { ensureBuilt, ensurePackages, ensureTools, run } from './ready.mjs';

ensurePackages();
ensureTools();
run('npx', 'astro', 'sync', '--silent');
run('npm', 'run', '--silent', 'lint');
run('npm', 'run', '--silent', 'types');
ensureBuilt();
run('npm', 'run', '--silent', 'unit');
run('npm', 'run', '--silent', 'fuzz', '--', '--seconds', '18');
run('npm', 'run', '--silent', 'e2e');
