import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { generateCapture } from './generate';

// Every figure is a ratio to a baseline taken in the same run: these machines are noisy, and ratios hold.

const MEGABYTES = Number(process.env['BENCH_MB'] ?? 200);
const ROUNDS = Number(process.env['BENCH_ROUNDS'] ?? 3);
const TASK = fileURLToPath(new URL('task.ts', import.meta.url));

interface Measured {
  readonly ms: number;
  readonly peakMb: number;
}

const folder = mkdtempSync(join(tmpdir(), 'trazado-bench-'));
try {
  const path = join(folder, 'generated.har');
  const exchanges = generateCapture(path, MEGABYTES * 1e6);
  console.log(
    `A generated capture of ${Math.round(statSync(path).size / 1e6)} MB, ${exchanges} exchanges; ${ROUNDS} rounds, medians.`,
  );
  const rounds = Array.from({ length: ROUNDS }, () => ({
    parse: measure('parse', path),
    read: measure('read', path),
    import: measure('import', path),
  }));
  const median = (pick: (round: (typeof rounds)[number]) => number): number =>
    rounds.map(pick).sort((a, b) => a - b)[Math.floor(ROUNDS / 2)] ?? Number.NaN;
  const row = (task: string, ratio: number, ms: number, peakMb: number, target: string): void =>
    console.log(
      `${task.padEnd(24)} ${ratio.toFixed(2)} x JSON.parse  ${ms.toFixed(0).padStart(6)} ms  peak ${peakMb.toFixed(0).padStart(5)} MB  ${target}`,
    );
  row(
    'JSON.parse, whole file',
    1,
    median((r) => r.parse.ms),
    median((r) => r.parse.peakMb),
    '(the baseline)',
  );
  row(
    'reading',
    median((r) => r.read.ms / r.parse.ms),
    median((r) => r.read.ms),
    median((r) => r.read.peakMb),
    'wanted: 1.5 x, 400 MB',
  );
  row(
    'into the database',
    median((r) => r.import.ms / r.parse.ms),
    median((r) => r.import.ms),
    median((r) => r.import.peakMb),
    'wanted: 3 x',
  );
} finally {
  rmSync(folder, { recursive: true });
}

function measure(task: string, path: string): Measured {
  const output = execFileSync(process.execPath, ['--import', 'tsx', TASK, task, path], { encoding: 'utf8' });
  return JSON.parse(output) as Measured;
}
