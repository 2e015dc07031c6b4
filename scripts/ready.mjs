// What the commands of a fresh clone need done first. No dependencies: it runs before there are any.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { findUnbuilt } from './built.mjs';
import { findChromium } from './chromium.mjs';

export const root = fileURLToPath(new URL('..', import.meta.url));
process.chdir(root);
process.env.ASTRO_TELEMETRY_DISABLED = '1';

/** Runs a command with its output shown; ends this process where it fails. */
export function run(command, ...args) {
  const { status, error } = spawnSync(command, args, { stdio: 'inherit', cwd: root });
  if (error !== undefined || status !== 0) endAfter([command, ...args], status, error);
}

/** Starts a command beside what goes on here, its output shown once it has ended; ends this process where it failed. */
export function start(command, ...args) {
  return new Promise((resolve) => {
    const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'pipe'], cwd: root });
    const said = [];
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (chunk) => said.push(chunk));
    child.on('error', (error) => endAfter([command, ...args], 1, error));
    child.on('close', (status) => {
      process.stderr.write(Buffer.concat(said));
      if (status !== 0) endAfter([command, ...args], status);
      resolve();
    });
  });
}

function endAfter(words, status, error) {
  console.error(`\n"${words.join(' ')}" failed${error === undefined ? '' : `: ${error.message}`}.`);
  process.exit(status || 1);
}

const changedAt = (path) => (existsSync(path) ? statSync(path).mtimeMs : 0);

/** The database engine for Node 20: the one in the lock file, which comes compiled, needs 22. */
const ENGINE_FOR_NODE_20 = 'better-sqlite3@12.11.1';
const OLDEST_NODE = [20, 19];

/** Installs the packages where they are missing, older than the lock file, or were installed for another Node. */
export function ensurePackages() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < OLDEST_NODE[0] || (major === OLDEST_NODE[0] && minor < OLDEST_NODE[1])) {
    console.error(`Trazado needs Node.js ${OLDEST_NODE.join('.')} or newer; this is ${process.versions.node}.`);
    process.exit(2);
  }
  const mark = 'node_modules/.trazado-installed';
  const isCurrent = changedAt(mark) >= changedAt('package-lock.json');
  if (isCurrent && readFileSync(mark, 'utf8') === process.versions.modules) return;
  const own = major < 22 ? [ENGINE_FOR_NODE_20] : [];
  if (own.length > 0 && root.includes("'")) {
    console.error(
      `The database engine cannot be compiled in a folder with an apostrophe in its path (${root}): move it, or use Node.js 22 or newer.`,
    );
    process.exit(2);
  }
  const compiles =
    own.length === 0 ? '' : '; the database engine may have to be compiled, which takes a minute or two once';
  console.error(`Installing packages${compiles}.`);
  if (own.length > 0) {
    // Compiled with less care for the last cycle it is there in half the time, and imports and finds as fast as can be measured.
    process.env.CFLAGS ??= '-O1';
    process.env.CXXFLAGS ??= '-O1';
  }
  run('npm', 'install', '--no-save', '--no-audit', '--no-fund', ...own);
  writeFileSync(mark, process.versions.modules);
}

/** Builds the app where its sources are newer than the last build that succeeded. */
export function ensureBuilt() {
  if (findUnbuilt() === undefined) return;
  console.error('Building the app.');
  run('npm', 'run', '--silent', 'build');
}

/** Finds what the tests run, or installs Debian's where this may be done: without Chromium they cannot go on. */
export function ensureTools() {
  const named = process.env.TRAZADO_CHROMIUM;
  const hasChromium = findChromium() !== undefined;
  if (!hasChromium && named !== undefined)
    endWith(`TRAZADO_CHROMIUM names ${named}, where there is none: name one that is there, or none.`);
  const hasCurl = spawnSync('curl', ['--version']).status === 0;
  if (hasChromium && hasCurl) return;
  if (process.getuid?.() === 0 && existsSync('/usr/bin/apt-get')) {
    run('apt-get', 'update', '-qq');
    const hasShell = spawnSync('apt-cache', ['show', 'chromium-headless-shell']).status === 0;
    const chromium = hasShell ? 'chromium-headless-shell' : 'chromium';
    const lacking = [...(hasChromium ? [] : [chromium]), ...(hasCurl ? [] : ['curl'])];
    console.error(`Installing ${lacking.join(' and ')} for the tests.`);
    run('apt-get', 'install', '-y', '-qq', '--no-install-recommends', ...lacking);
    return;
  }
  if (hasChromium) return;
  endWith(
    'The browser tests need Chromium. Install it (Debian: apt-get install chromium-headless-shell, or chromium), or name another one in TRAZADO_CHROMIUM.',
  );
}

function endWith(message) {
  console.error(message);
  process.exit(2);
}
