import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { generateCapture } from './generate';

// How long redacting a capture takes with its proof, and how much memory, against saving it again in the same run.

const MEGABYTES = Number(process.env['BENCH_MB'] ?? 50);
const ROUNDS = Number(process.env['BENCH_ROUNDS'] ?? 3);

const folder = mkdtempSync(join(tmpdir(), 'trazado-bench-'));

interface Run {
  readonly ms: number;
  readonly peakMb: number;
}

/** Runs a command under a watch that tells its peak. */
function run(command: string, path: string): Run {
  const from = performance.now();
  const watch = join(folder, 'watch.mjs');
  writeFileSync(watch, "process.on('exit', () => process.stderr.write('PEAK ' + process.resourceUsage().maxRSS));");
  const { stderr, status } = spawnSync(
    process.execPath,
    ['--import', watch, 'bin/trazado', command, path, join(folder, `${command}.har`)],
    { encoding: 'utf8' },
  );
  if (status !== 0) throw new Error(stderr);
  return { ms: performance.now() - from, peakMb: Number(/PEAK (\d+)/.exec(stderr)?.[1] ?? Number.NaN) / 1000 };
}

/** What a signed-in user sends: a token, a session and an address that many requests share. */
function secretHeaders(at: number): { readonly name: string; readonly value: string }[] {
  const drawn = (of: string): string => createHash('sha256').update(of).digest('base64url');
  return [
    { name: 'authorization', value: `Bearer ${drawn(`token ${at % 40}`)}` },
    { name: 'cookie', value: `session=${drawn(`session ${at % 20}`)}; language=es` },
    { name: 'x-signed-in', value: `walker-${at % 200}@post.cumbrera.example` },
  ];
}

const median = (values: readonly number[]): number =>
  values.toSorted((a, b) => a - b)[values.length >> 1] ?? Number.NaN;

try {
  const path = join(folder, 'generated.har');
  const exchanges = generateCapture(path, MEGABYTES * 1e6, secretHeaders);
  const rounds = Array.from({ length: ROUNDS }, () => ({ save: run('save', path), redact: run('redact', path) }));
  const ratio = median(rounds.map(({ save, redact }) => redact.ms / save.ms));
  const [save, redact] = (['save', 'redact'] as const).map((name) => ({
    ms: median(rounds.map((round) => round[name].ms)),
    peakMb: median(rounds.map((round) => round[name].peakMb)),
  }));
  console.log(
    `${Math.round(statSync(path).size / 1e6)} MB, ${exchanges} exchanges: redacted and proven in ${redact?.ms.toFixed(0)} ms, ${ratio.toFixed(2)} x saving (${save?.ms.toFixed(0)} ms), peak ${redact?.peakMb.toFixed(0)} MB (saving ${save?.peakMb.toFixed(0)} MB)`,
  );
} finally {
  rmSync(folder, { recursive: true });
}
