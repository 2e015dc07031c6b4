import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { findLauncher } from '../server/testing/process';

// How much script a page needs before it shows something: its own, and all that this imports without waiting.

const folder = join(dirname(findLauncher()), '../dist/client/_astro');
const scripts = readdirSync(folder).filter((name) => name.endsWith('.js'));
const textOf = (name: string): string => readFileSync(join(folder, name), 'utf8');

/** The scripts whose names begin so, and what they import statically. */
function neededFor(parts: readonly string[]): string[] {
  const needed = new Set<string>();
  const take = (name: string): void => {
    if (needed.has(name)) return;
    needed.add(name);
    for (const [, path = ''] of textOf(name).matchAll(/\b(?:from|import)\s*"\.\/([^"]+\.js)"/g)) take(path);
  };
  for (const part of parts) {
    const own = scripts.filter((name) => name.startsWith(`${part}.`));
    // Two where some of it is shared with what comes later.
    expect(own, `script of ${part}`).not.toHaveLength(0);
    own.forEach(take);
  }
  return [...needed];
}

const kBOf = (names: readonly string[]): number =>
  names.reduce((sum, name) => sum + gzipSync(textOf(name)).length, 0) / 1000;

/** React, which draws every page. */
const REACT = 'client';

describe('the script that comes before the first view, packed', () => {
  it.each([
    ['the shelf', ['Shelf'], 115],
    ['the brief', ['CaptureApp', 'BriefView'], 125],
    ['the waterfall', ['CaptureApp', 'WaterfallView'], 130],
    ['a comparison', ['CompareApp'], 130],
    ['the choice of what is compared', ['CompareApp', 'LoadChooser'], 130],
    ['the reference', ['ReferenceView'], 115],
  ])('of %s stays small', (_, parts, mostKB) => {
    const needed = neededFor([REACT, ...parts]);
    expect(kBOf(needed)).toBeLessThan(mostKB);
    // Half of it is React: a list that lost its way would be far smaller.
    expect(kBOf(needed)).toBeGreaterThan(80);
  });

  it.each([
    'CartesianChart',
    'Dossier',
    'DraftsView',
    'bar-panel',
    'filtering',
    'FilterValue',
    'LaneHead',
    'PairSheet',
    'DetailPart',
    'export-comparison',
    'regex-runner',
    'CodeOfSelection',
    'ExportContent',
    'show-code',
  ])('has nothing of %s in it', (part) => {
    const pages = ['Shelf', 'CaptureApp', 'BriefView', 'WaterfallView', 'CompareApp', 'ReferenceView'];
    expect(neededFor(pages).filter((name) => name.startsWith(`${part}.`))).toEqual([]);
    expect(scripts.some((name) => name.startsWith(`${part}.`))).toBe(true);
  });
});
