// npm run package: packs the app, installs it in an empty prefix, and sees whether what is installed works by itself.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { root, run } from './ready.mjs';

/** What only building and testing needs: none of it may come along. */
const TOOLS = ['astro', 'vite', 'esbuild', 'typescript', 'vitest', '@playwright/test', 'tailwindcss', 'react', 'tsx'];

const folder = mkdtempSync(join(tmpdir(), 'trazado-package-'));
const fail = (what) => {
  console.error(what);
  process.exitCode = 1;
};
try {
  run('npm', 'pack', '--silent', '--pack-destination', folder);
  const [archive] = readdirSync(folder);
  const prefix = join(folder, 'prefix');
  run('npm', 'install', '--global', '--silent', '--no-audit', '--no-fund', '--prefix', prefix, join(folder, archive));
  const modules = join(prefix, 'lib/node_modules');
  const brought = TOOLS.filter((name) => existsSync(join(modules, 'trazado/node_modules', name)));
  if (brought.length > 0) fail(`The package brings development tools: ${brought.join(', ')}.`);
  const trazado = join(prefix, 'bin/trazado');
  const capture = join(root, 'demo/captures/booking-gone-wrong.har');
  const env = { ...process.env, TRAZADO_DATA: join(folder, 'data') };
  const summary = spawnSync(trazado, ['summary', capture, '--json'], { cwd: folder, env, encoding: 'utf8' });
  if (summary.status !== 0) fail(`"trazado summary" ended with ${summary.status}: ${summary.stderr}`);
  for (const args of [
    ['serve', '--port', '0', capture],
    ['demo', '--port', '0'],
  ]) {
    const url = await started(trazado, args, env);
    if (url === undefined) fail(`"trazado ${args[0]}" did not start.`);
  }
  if (process.exitCode === undefined) console.log(`${archive} works as installed: summary, serve and demo.`);
} finally {
  rmSync(folder, { recursive: true, force: true });
}

/** Starts the app, asks it for its shelf and ends it; undefined where there is none with captures on it. */
async function started(command, args, env) {
  const child = spawn(command, args, { cwd: folder, env, stdio: ['ignore', 'pipe', 'inherit'] });
  try {
    const url = await new Promise((resolve) => {
      child.stdout.on('data', (chunk) => {
        const found = /http:\S+/.exec(String(chunk))?.[0];
        if (found !== undefined) resolve(found);
      });
      child.once('exit', () => resolve(undefined));
    });
    if (url === undefined) return undefined;
    const captures = await (await fetch(`${url}api/captures`)).json();
    const page = await (await fetch(url)).text();
    return captures.length > 0 && page.includes('Trazado') ? url : undefined;
  } finally {
    child.kill('SIGTERM');
  }
}
