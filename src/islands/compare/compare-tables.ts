import { nameBoth, type PairChange, type SumOfBoth, tellFacts, tellTimes } from '#core/compare';
import { formatBytes, formatCount, formatMs, signedBytes, signedMs, signedWholeMs } from '#core/wording';
import type { TextTable } from '../ui/table-text';
import type { LedgerStep } from './ledger-steps';
import type { ShownPair } from './pairs';
import type { ShownSides } from './use-compared';

// The tables of a comparison, as they are drawn and as they are copied.

/** A line of sums: what it is of, and what it comes to on both sides. */
export interface SumLine {
  readonly of: string;
  readonly a: string;
  readonly b: string;
  readonly difference: string;
}

export function sumLine({ of, unit, a, b }: SumOfBoth): SumLine {
  const write = unit === 'bytes' ? formatBytes : (value: number) => formatCount(value);
  const told = (value: number | undefined): string => (value === undefined ? 'unknown' : write(value));
  if (a === undefined || b === undefined) return { of, a: told(a), b: told(b), difference: 'unknown' };
  return { of, a: told(a), b: told(b), difference: unit === 'bytes' ? signedBytes(b - a) : signedCount(b - a) };
}

const signedCount = (count: number): string =>
  count === 0 ? '±0' : `${count > 0 ? '+' : '−'}${formatCount(Math.abs(count))}`;

/** When both loads reached what either of them reached. */
export function milestoneLines({ a, b }: ShownSides): readonly SumLine[] {
  const labels = [...new Set([a, b].flatMap(({ page }) => (page?.milestones ?? []).map(({ label }) => label)))];
  const atMs = ({ page }: ShownSides['a'], label: string): number | undefined =>
    page?.milestones.find((milestone) => milestone.label === label)?.atMs;
  return labels.map((label) => {
    const [own, other] = [atMs(a, label), atMs(b, label)];
    const difference = own === undefined || other === undefined ? 'unknown' : signedMs(other - own);
    return { of: label, a: formatMs(own), b: formatMs(other), difference };
  });
}

export const sumTable = (title: string, lines: readonly SumLine[]): TextTable => ({
  title,
  head: ['', 'A', 'B', 'difference'],
  rows: lines.map(({ of, a, b, difference }) => [of, a, b, difference]),
  figures: [1, 2, 3],
});

/** The steps from the one load to the other. @param whole their whole ms, which come to that of the difference */
export const stepTable = (
  { a, b, compared }: ShownSides,
  steps: readonly LedgerStep[],
  whole: readonly number[],
): TextTable => ({
  title: 'The difference',
  head: ['what', 'time'],
  rows: [
    [`A: ${a.drawn.name}`, formatMs(compared.drawn.ledger?.aMs)],
    ...steps.flatMap(({ key, label }, at) =>
      whole[at] === 0 && key === 'rest' ? [] : [[label, signedWholeMs(whole[at] ?? 0)]],
    ),
    [`B: ${b.drawn.name}`, formatMs(compared.drawn.ledger?.bMs)],
  ],
  figures: [1],
});

/** What became of a pair, in words. */
export const PAIR_CHANGE_WORDS: Record<PairChange, string> = {
  gone: 'gone',
  new: 'new',
  slower: 'slower',
  quicker: 'quicker',
  other: 'with another response',
  same: 'the same',
};

/** The pairs that are shown, with what is not the same in each. */
export const pairTable = (pairs: readonly ShownPair[]): TextTable => ({
  title: 'Pairs',
  head: ['A', 'B', 'exchange', 'change', 'A took', 'B took', 'what differs'],
  rows: pairs.map(({ pair, a, b, did }) => [
    a === undefined ? '' : `#${a.index}`,
    b === undefined ? '' : `#${b.index}`,
    nameBoth(a, b),
    pair.changes.map((change) => PAIR_CHANGE_WORDS[change]).join(', '),
    a === undefined ? '' : formatMs(a.timeMs),
    b === undefined ? '' : formatMs(b.timeMs),
    [did?.others === 0 ? did.why : '', tellTimes(a, b), tellFacts(pair, a, b)].filter((text) => text !== '').join('; '),
  ]),
  figures: [4, 5],
});
