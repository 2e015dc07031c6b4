import { mkdirSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { runCli } from '../server/testing/process';

const BOOKING = 'demo/captures/booking-gone-wrong.har';
const folder = mkdtempSync(join(tmpdir(), 'trazado-bodies-'));

const filesUnder = (path: string): string[] =>
  readdirSync(path, { recursive: true, withFileTypes: true })
    .filter((one) => one.isFile())
    .map((one) => join(one.parentPath, one.name).slice(path.length + 1))
    .toSorted();

interface Entry {
  readonly request: { readonly url: string };
  readonly response: { readonly content: { readonly text?: string; readonly encoding?: string } };
}
const entries = (JSON.parse(readFileSync(BOOKING, 'utf8')) as { log: { entries: Entry[] } }).log.entries;

describe('trazado bodies', () => {
  it('writes every body of a filter as it was recorded, and nothing else', () => {
    const out = join(folder, 'api');
    const { status, stdout, stderr } = runCli([
      'bodies',
      BOOKING,
      '--where',
      'host = api.cumbrera.example',
      '--out',
      out,
      '--json',
    ]);
    expect(status).toBe(0);
    const written = JSON.parse(stdout.toString()) as { index: number; path: string }[];
    // Independent of the reading: the texts of the file itself.
    const recorded = entries.flatMap(({ request, response }, index) => {
      const { text, encoding } = response.content;
      if (!request.url.startsWith('https://api.') || text === undefined || text === '') return [];
      return [{ index, bytes: Buffer.from(text, encoding === 'base64' ? 'base64' : 'utf8') }];
    });
    expect(written.map(({ index }) => index)).toEqual(recorded.map(({ index }) => index));
    for (const [at, { path }] of written.entries()) {
      expect(path.startsWith('api.cumbrera.example/')).toBe(true);
      expect(readFileSync(join(out, path)).equals(recorded[at]?.bytes ?? Buffer.of())).toBe(true);
    }
    expect(filesUnder(out)).toEqual([...new Set(written.map(({ path }) => path))].toSorted());
    expect(stderr.toString()).toMatch(/^\d+ bodies written to \d+ files in .+; \d+ empty, \d+ not recorded\.\n$/);
  });

  it('writes over nothing, and says why', () => {
    const out = join(folder, 'full');
    mkdirSync(out);
    writeFileSync(join(out, 'mine.txt'), 'mine');
    const { status, stderr } = runCli(['bodies', BOOKING, '--out', out]);
    expect([status, stderr.toString()]).toEqual([2, `trazado: ${out} is not empty; name a new folder for --out.\n`]);
    expect(filesUnder(out)).toEqual(['mine.txt']);
  });

  it.each([
    ['a filter that nothing passes', ['--where', 'host = nobody'], /lets no exchange through/],
    ['a filter that is none', ['--where', 'host ='], /^trazado: --where at character/],
  ])('makes no folder for %s', (name, options, message) => {
    const out = join(folder, name);
    const { status, stderr } = runCli(['bodies', BOOKING, ...options, '--out', out]);
    expect([status, stderr.toString()]).toEqual([2, expect.stringMatching(message)]);
    expect(readdirSync(folder)).not.toContain(name);
  });
});
