import { addTo } from '../collections';
import type { ExchangeIndex } from '../model';

/** A change to be tried. Each can only spare time. */
export type Change =
  /** These exchanges, and whatever they alone asked for, are not made. */
  | { readonly type: 'leave-out'; readonly indexes: ReadonlySet<ExchangeIndex> }
  /** The server takes at most so long to answer these. */
  | { readonly type: 'answer-in'; readonly indexes: ReadonlySet<ExchangeIndex>; readonly waitMs: number }
  /** These are taken from the browser's cache: no network at all. */
  | { readonly type: 'from-cache'; readonly indexes: ReadonlySet<ExchangeIndex> }
  /** These begin at this moment, in ms since the page's start, or when they did where that was earlier. */
  | { readonly type: 'start-at'; readonly indexes: ReadonlySet<ExchangeIndex>; readonly startMs: number }
  /** These are so much smaller: their downloads take this share of their time and of their bytes. */
  | { readonly type: 'download-share'; readonly indexes: ReadonlySet<ExchangeIndex>; readonly share: number }
  /** These find a connection that stands. */
  | { readonly type: 'connected'; readonly indexes: ReadonlySet<ExchangeIndex> }
  /** These wait for no free connection. */
  | { readonly type: 'unqueued'; readonly indexes: ReadonlySet<ExchangeIndex> }
  /** These start at once when what they waited for has ended; and, to the end, the milestone comes with the last of its exchanges. */
  | { readonly type: 'no-gap'; readonly indexes: ReadonlySet<ExchangeIndex>; readonly isToEnd?: boolean };

/** The changes about each exchange: a remedy may have one for each of thousands. */
export function byExchange(changes: readonly Change[]): ReadonlyMap<ExchangeIndex, readonly Change[]> {
  const about = new Map<ExchangeIndex, [Change, ...Change[]]>();
  for (const change of changes) for (const index of change.indexes) addTo(about, index, change);
  return about;
}
export const NO_CHANGES: readonly Change[] = [];

// What follows is given the changes about one exchange alone.

export const isGapless = (changes: readonly Change[]): boolean => changes.some(({ type }) => type === 'no-gap');

/** When a change has it begin at the latest. */
export const earliestOf = (changes: readonly Change[]): number =>
  changes.reduce(
    (earliest, one) => (one.type === 'start-at' ? Math.min(earliest, one.startMs) : earliest),
    Number.POSITIVE_INFINITY,
  );

/** Which share of its bytes still comes over the network. */
export const shareOf = (changes: readonly Change[]): number =>
  changes.reduce((share, one) => {
    if (one.type === 'from-cache') return 0;
    return one.type === 'download-share' ? share * Math.min(1, one.share) : share;
  }, 1);
