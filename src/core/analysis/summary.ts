import { groupBy } from '../collections';
import { findMilestoneMs, type Page, type PageId, sparesTheNetwork } from '../model';
import { formatMs, formatPlural } from '../wording';
import type { ExchangeRow } from './exchange-row';
import { findLostDocument } from './lost-document';
import { hasAnyTime } from './timed';

/** Sums over exchanges. Bytes leave out what is unknown and are unknown where nothing is known. */
export interface Tally {
  readonly exchanges: number;
  readonly failed: number;
  readonly wireBytes: number | undefined;
  readonly bodyBytes: number | undefined;
  /** Body bytes that did not have to cross the network again. */
  readonly savedBytes: number | undefined;
}

/** The network was spared: nothing had to cross it again, neither for the page nor for its worker. */
export const isSpared = ({ source, fetchedAs }: Pick<ExchangeRow, 'source' | 'fetchedAs'>): boolean =>
  sparesTheNetwork(source) && fetchedAs === undefined;

/** Sums over any set of rows; shares are of body bytes. */
export function tally(rows: Iterable<ExchangeRow>): Tally {
  let exchanges = 0;
  let failed = 0;
  let wireBytes: number | undefined;
  let bodyBytes: number | undefined;
  let savedBytes: number | undefined;
  for (const row of rows) {
    exchanges++;
    if (row.failure !== undefined) failed++;
    if (row.wireBytes !== undefined) wireBytes = (wireBytes ?? 0) + row.wireBytes;
    // What a worker fetched for a page is one body, counted where the page got it.
    if (row.bodyBytes === undefined || row.fetchedFor !== undefined) continue;
    bodyBytes = (bodyBytes ?? 0) + row.bodyBytes;
    savedBytes = (savedBytes ?? 0) + (isSpared(row) ? row.bodyBytes : 0);
  }
  // Of no exchanges at all it is known what they come to.
  if (exchanges === 0) return { exchanges, failed, wireBytes: 0, bodyBytes: 0, savedBytes: 0 };
  return { exchanges, failed, wireBytes, bodyBytes, savedBytes };
}

/** Share of body bytes that cache or the like spared, 0 to 1; unknown where there are no body bytes. */
export const savedShare = (sums: Tally): number | undefined =>
  sums.bodyBytes === undefined || sums.bodyBytes === 0 ? undefined : (sums.savedBytes ?? 0) / sums.bodyBytes;

export interface HostSums {
  readonly exchanges: number;
  readonly wireBytes: number | undefined;
  readonly bodyBytes: number | undefined;
}

/** Counts by status ("none" where no answer came), kind, source and host. */
export interface Breakdown {
  readonly byStatus: Readonly<Record<string, number>>;
  readonly byKind: Readonly<Record<string, number>>;
  readonly bySource: Readonly<Record<string, number>>;
  readonly byHost: Readonly<Record<string, HostSums>>;
}

export function breakDown(rows: readonly ExchangeRow[]): Breakdown {
  const hosts = groupBy(rows, ({ host }) => host);
  return {
    byStatus: countBy(rows, (row) => (row.status === undefined ? 'none' : String(row.status))),
    byKind: countBy(rows, (row) => row.kind),
    bySource: countBy(rows, (row) => row.source),
    byHost: Object.fromEntries(
      [...hosts].map(([host, own]): [string, HostSums] => {
        const { exchanges, wireBytes, bodyBytes } = tally(own);
        return [host, { exchanges, wireBytes, bodyBytes }];
      }),
    ),
  };
}

function countBy(rows: readonly ExchangeRow[], key: (row: ExchangeRow) => string): Record<string, number> {
  const counts = new Map<string, number>();
  for (const row of rows) counts.set(key(row), (counts.get(key(row)) ?? 0) + 1);
  return Object.fromEntries(counts);
}

/** What the shelf says of a capture, a sentence but for its end: how its first page loaded, and what failed. */
export function clauseOf(rows: readonly ExchangeRow[], pages: readonly Page[]): string {
  const sums = tally(rows);
  if (sums.exchanges === 0) return 'The capture is empty';
  const failed = sums.failed === 0 ? 'nothing failed' : `${sums.failed} failed`;
  return `${loadClause(rows, pages)}, ${failed}`;
}

function loadClause(rows: readonly ExchangeRow[], pages: readonly Page[]): string {
  const [first] = pages;
  const more = pages.length > 1 ? `; ${formatPlural(pages.length - 1, 'more page')}` : '';
  if (findLostDocument(rows.filter(({ pageId }) => pageId === first?.id)) !== undefined) {
    return `Its document never came${more}`;
  }
  const loadedMs = first === undefined ? undefined : findMilestoneMs(first, 'loaded');
  if (loadedMs !== undefined) return `Loaded in ${formatMs(loadedMs)}${more}`;
  const readyMs = first === undefined ? undefined : findMilestoneMs(first, 'domReady');
  if (readyMs !== undefined) return `DOM ready after ${formatMs(readyMs)}, loaded unknown${more}`;
  const end = lastEndMs(rows, first?.id);
  if (end === undefined) return `${formatPlural(rows.length, 'exchange')}, times unknown${more}`;
  return `Its last exchange ${hasAnyTime(rows) ? 'ended' : 'began'} after ${formatMs(end)}, loaded unknown${more}`;
}

/** End of the last exchange to end, in ms since its page's start; unknown where no times are. */
export function lastEndMs(rows: readonly ExchangeRow[], page: PageId | undefined): number | undefined {
  let last: number | undefined;
  for (const row of rows) {
    if (row.pageId !== page || row.startMs === undefined) continue;
    const end = row.startMs + (row.timeMs ?? 0);
    if (last === undefined || end > last) last = end;
  }
  return last;
}
