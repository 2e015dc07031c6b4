import { execFile, execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import type { AddressInfo, Server } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { type Draft, EMPTY_DRAFT } from '../draft';
import { DEFAULT_OPTIONS, findTarget, type RenderOptions } from '../index';
import { RUNNERS, type RunnerId } from './runners';

const run = promisify(execFile);

/** What runs by a client of its own, as a message does not. */
export const RUN_ALONE = (Object.keys(RUNNERS) as RunnerId[]).filter((one) => one !== 'http');

/** Starts a server on this machine. Returns its port. */
export async function listen(server: Server): Promise<number> {
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return (server.address() as AddressInfo).port;
}

/**
 * Runs what a target makes of a GET, in a home of its own.
 * @param netrc what stands in ~/.netrc
 * @returns what it warned of; what the last of its commands printed, and said beside that; the files that it left where it ran
 */
export async function runAlone(
  id: RunnerId,
  draft: Partial<Draft>,
  options: Partial<RenderOptions>,
  netrc?: string,
): Promise<{
  readonly warnings: string;
  readonly printed: Buffer;
  readonly said: string;
  readonly files: Readonly<Record<string, Buffer>>;
}> {
  const target = findTarget(id);
  if (target === undefined) throw new Error(`no target ${id}`);
  const folder = mkdtempSync(join(tmpdir(), `trazado-alone-${id}-`));
  try {
    const { text, warnings } = target.render({ ...EMPTY_DRAFT, ...draft }, { ...DEFAULT_OPTIONS, ...options });
    const cwd = join(folder, 'scratch');
    mkdirSync(cwd);
    if (netrc !== undefined) writeFileSync(join(folder, '.netrc'), netrc, { mode: 0o600 });
    if (target.language === 'JavaScript')
      execFileSync('ln', ['-s', join(process.cwd(), 'node_modules'), join(folder, 'node_modules')]);
    const env = {
      ...process.env,
      HOME: folder,
      GOFLAGS: '-mod=mod',
      GOCACHE: join(tmpdir(), 'trazado-go-cache'),
      LC_ALL: 'C.UTF-8',
    };
    let last: { readonly stdout: Buffer; readonly stderr: Buffer } | undefined;
    // Some end with an error where they do not follow, or where a proxy refuses them.
    for (const [command, ...args] of RUNNERS[id].prepare(folder, [text]))
      last = await run(command, args, { cwd, env, timeout: 240_000, encoding: 'buffer', maxBuffer: 2 ** 26 }).catch(
        (error: NonNullable<typeof last>) => error,
      );
    // Go runs where its module is.
    const files = [folder, cwd].flatMap((ran) =>
      readdirSync(ran, { withFileTypes: true }).flatMap((one) =>
        one.isFile() ? [[one.name, readFileSync(join(ran, one.name))] as const] : [],
      ),
    );
    const { stdout: printed = Buffer.alloc(0), stderr } = last ?? {};
    return { warnings: warnings.join('\n'), printed, said: stderr?.toString() ?? '', files: Object.fromEntries(files) };
  } finally {
    rmSync(folder, { recursive: true });
  }
}
