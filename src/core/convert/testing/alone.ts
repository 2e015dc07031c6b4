import { execFile, execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { type Draft, EMPTY_DRAFT } from '../draft';
import { DEFAULT_OPTIONS, findTarget, type RenderOptions } from '../index';
import { RUNNERS, type RunnerId } from './runners';

const run = promisify(execFile);

/**
 * Runs what a target makes of a GET, in a home of its own.
 * @param netrc what stands in ~/.netrc
 * @returns what it warned of
 */
export async function runAlone(
  id: RunnerId,
  draft: Partial<Draft>,
  options: Partial<RenderOptions>,
  netrc?: string,
): Promise<{ readonly warnings: string }> {
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
    // Some end with an error where they do not follow, or where a proxy refuses them.
    for (const [command, ...args] of RUNNERS[id].prepare(folder, [text]))
      await run(command, args, { cwd, env, timeout: 240_000 }).catch(() => undefined);
    return { warnings: warnings.join('\n') };
  } finally {
    rmSync(folder, { recursive: true });
  }
}
