import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { runCli } from '../server/testing/process';

// What holds for every capture, whatever recorded it: scripts rely on what these commands print.

const FOLDERS = ['demo/captures', '../shared/captures'].filter(existsSync);
const CAPTURES = FOLDERS.flatMap((folder) =>
  readdirSync(folder)
    .filter((name) => name.endsWith('.har'))
    .map((name) => join(folder, name)),
);
const folder = mkdtempSync(join(tmpdir(), 'trazado-contract-'));
afterAll(() => rmSync(folder, { recursive: true }));

interface Listed {
  readonly index: number;
  readonly parent?: number;
  readonly depth?: number;
  readonly startMs?: number;
  readonly timeMs?: number;
  readonly phases: Readonly<Record<string, number>>;
  readonly failed: boolean;
  readonly wireBytes?: number;
  readonly host: string;
}

const json = (...args: string[]) => {
  const { status, stdout, stderr } = runCli([...args, '--json']);
  if (status !== 0) throw new Error(`${args.join(' ')}: ${stderr}`);
  return JSON.parse(stdout.toString());
};
const total = (values: Readonly<Record<string, number>>): number =>
  Object.values(values).reduce((sum, value) => sum + value, 0);
const totalOf = (rows: readonly Listed[], of: (row: Listed) => number | undefined): number =>
  rows.reduce((sum, row) => sum + (of(row) ?? 0), 0);

describe.each(CAPTURES)('%s', (file) => {
  const entries = (JSON.parse(readFileSync(file, 'utf8')) as { log: { entries: unknown[] } }).log.entries.length;
  const rows = json('list', file) as Listed[];

  it('is listed whole, each exchange once, by its place in the file', () => {
    expect(rows.map(({ index }) => index).sort((a, b) => a - b)).toEqual(
      Array.from({ length: entries }, (_, at) => at),
    );
  });

  it('shows an exchange as it lists it', () => {
    const deepest = rows.reduce((most, row) => ((row.depth ?? 0) > (most.depth ?? 0) ? row : most));
    expect(json('show', file, String(deepest.index))).toMatchObject(deepest);
  });

  it('is summed up as it is listed', () => {
    const summary = json('summary', file);
    expect(summary.exchanges).toBe(entries);
    expect(summary.failed).toBe(rows.filter(({ failed }) => failed).length);
    expect(summary.wireBytes).toBe(totalOf(rows, ({ wireBytes }) => wireBytes));
    for (const counts of [summary.byStatus, summary.byKind, summary.bySource]) expect(total(counts)).toBe(entries);
    for (const [host, { exchanges }] of Object.entries(summary.byHost) as [string, { exchanges: number }][]) {
      expect(exchanges).toBe(rows.filter((row) => row.host === host).length);
    }
  });

  it('has parents that come before their children, and phases that add up', () => {
    const byIndex = new Map(rows.map((row) => [row.index, row]));
    for (const { index, parent, startMs = 0, timeMs, phases } of rows) {
      if (parent !== undefined) {
        expect(byIndex.get(parent)?.startMs ?? 0, `parent of #${index}`).toBeLessThanOrEqual(startMs + 1);
        expect(parent).not.toBe(index);
      }
      const known = total(phases);
      if (timeMs !== undefined && known > 0) expect(Math.abs(known - timeMs), `#${index}`).toBeLessThan(0.01);
    }
  });

  it('is explained by legs that tile the load, a ledger that adds up, and findings that stand on it', () => {
    const { legs, ledger, targetMs, findings } = json('explain', file);
    let at = legs[0].startMs;
    for (const leg of legs) {
      expect(leg.startMs).toBeCloseTo(at, 6);
      at = leg.endMs;
    }
    expect(Math.abs(at - targetMs)).toBeLessThan(0.01);
    expect(Math.abs(total(ledger) - (targetMs - legs[0].startMs))).toBeLessThan(0.01);
    for (const { evidence, claim } of findings) {
      expect(
        evidence.every((index: number) => index >= 0 && index < entries),
        claim,
      ).toBe(true);
    }
  });

  it('is saved as it was read', () => {
    const out = join(folder, 'out.har');
    expect(runCli(['save', file, out]).status).toBe(0);
    expect(JSON.parse(readFileSync(out, 'utf8'))).toEqual(JSON.parse(readFileSync(file, 'utf8')));
  });
});
