import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { findUnbuilt } from '../../../scripts/built.mjs';
import { findPackageRoot } from '../package-root';

let checked: string | undefined;

/** The launcher of the built app; an error where the build is not of the sources as they are now. */
export function findLauncher(): string {
  if (checked !== undefined) return checked;
  const unbuilt = findUnbuilt();
  if (unbuilt !== undefined) throw new Error(`${unbuilt} is newer than the build that is tested here: npm run build`);
  checked = join(findPackageRoot(), 'bin/trazado');
  return checked;
}

/** A folder of its own for a server's data, removed when the tests end. */
export function newDataFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'trazado-data-'));
  if (made.length === 0) {
    process.once('exit', () => {
      for (const one of made) rmSync(one, { recursive: true, force: true });
    });
  }
  made.push(folder);
  return folder;
}

const made: string[] = [];

export interface RunningApp {
  readonly url: string;
  readonly process: ChildProcess;
  readonly dataFolder: string;
  readonly stop: (signal?: NodeJS.Signals) => Promise<void>;
}

/** Starts the launcher as users do, with a data folder of its own, and waits for the address that it prints. */
export async function startLauncher(args: readonly string[], dataFolder = newDataFolder()): Promise<RunningApp> {
  const env = { ...process.env, TRAZADO_DATA: dataFolder };
  const child = spawn(process.execPath, [findLauncher(), ...args], { env, stdio: ['ignore', 'pipe', 'ignore'] });
  const url = await new Promise<string>((resolve, reject) => {
    let text = '';
    child.stdout.on('data', (chunk: Buffer) => {
      text += chunk;
      const found = /http:\S+/.exec(text)?.[0];
      if (found !== undefined) resolve(found);
    });
    child.once('exit', (code) => reject(new Error(`the app ended with ${code} before it said its address`)));
  });
  const stop = async (signal: NodeJS.Signals = 'SIGTERM'): Promise<void> => {
    if (child.exitCode !== null || child.signalCode !== null) return;
    const ended = once(child, 'exit');
    child.kill(signal);
    await ended;
  };
  return { url, process: child, dataFolder, stop };
}

/** The app on a free port. */
export const startServer = (dataFolder?: string): Promise<RunningApp> =>
  startLauncher(['serve', '--port', '0'], dataFolder);

export interface Ended {
  readonly status: number | null;
  readonly stdout: Buffer;
  readonly stderr: string;
}

/** Runs the command line to its end, with a data folder of its own where none is given. */
export function runCli(
  args: readonly string[],
  input?: Uint8Array | string,
  environment: Readonly<Record<string, string>> = {},
): Ended {
  const options = {
    input,
    maxBuffer: 64 * 1024 * 1024,
    env: { ...process.env, TRAZADO_DATA: newDataFolder(), ...environment },
  };
  const { status, stdout, stderr } = spawnSync(process.execPath, [findLauncher(), ...args], options);
  return { status, stdout, stderr: stderr.toString() };
}

/** What the command line printed, and how it ended, beside this process: a server of the test's own may answer meanwhile. */
export async function runBeside(
  args: readonly string[],
  input = '',
): Promise<{ readonly status: number | null; readonly stdout: string; readonly stderr: string }> {
  const child = spawn(process.execPath, [findLauncher(), ...args]);
  let [stdout, stderr] = ['', ''];
  child.stdout.on('data', (chunk) => (stdout += chunk));
  child.stderr.on('data', (chunk) => (stderr += chunk));
  child.stdin.end(input);
  const status = await new Promise<number | null>((resolve) => child.on('close', resolve));
  return { status, stdout, stderr };
}
