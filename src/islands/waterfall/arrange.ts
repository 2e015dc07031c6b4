import { type ExchangeRow, isOfExtension, type PageOverview } from '#core/analysis';
import type { Milestone } from '#core/model';
import type { Noise } from '../state/address';

/** "all" shows every page on one clock; anything else is a page's id. */
export const ALL_PAGES = 'all';

/** An exchange at its place on the clock of what is shown. */
export interface Placed {
  readonly row: ExchangeRow;
  /** Since the page's start, or since the capture's first exchange where all pages are shown. Unknown: not drawn. */
  readonly startMs: number | undefined;
  readonly endMs: number | undefined;
}

export interface Arrangement {
  readonly placed: readonly Placed[];
  readonly milestones: readonly Milestone[];
  /** Id of the page that is shown; absent where all are. */
  readonly page: PageOverview | undefined;
}

/** A strip as the profile takes it: none where its start is unknown. */
export const spanOf = ({ row, startMs }: Placed) =>
  startMs === undefined ? [] : [{ startMs, timeMs: row.timeMs ?? 0, phases: row.phases, wireBytes: row.wireBytes }];

/** The page to show: the one asked for, else the first; undefined for all of them. */
export function choosePage(pages: readonly PageOverview[], asked: string | undefined): PageOverview | undefined {
  if (asked === ALL_PAGES) return undefined;
  return pages.find(({ id }) => id === asked) ?? pages[0];
}

/** What counts as noise: what did not come from the page, what reports on it, and what others put into it. */
export const IS_NOISE: Record<Noise, (row: ExchangeRow) => boolean> = {
  extension: ({ url }) => isOfExtension(url),
  report: ({ kind }) => kind === 'report',
  third: ({ party }) => party === 'third',
};

/** The exchanges of a page, or of all, in the order of their starts; ties and unknown starts keep the file's order. */
export function arrange(
  rows: readonly ExchangeRow[],
  pages: readonly PageOverview[],
  asked: string | undefined,
): Arrangement {
  const page = choosePage(pages, asked);
  const shown = page === undefined ? rows : rows.filter((row) => row.pageId === page.id);
  const origin = rows.reduce(
    (earliest, row) => Math.min(earliest, row.startedAt ?? earliest),
    Number.POSITIVE_INFINITY,
  );
  const placed = shown.map((row): Placed => {
    const sinceOrigin = row.startedAt === undefined ? undefined : row.startedAt - origin;
    const startMs = page === undefined ? sinceOrigin : row.startMs;
    return { row, startMs, endMs: startMs === undefined ? undefined : startMs + (row.timeMs ?? 0) };
  });
  placed.sort(
    (a, b) =>
      (a.startMs ?? Number.POSITIVE_INFINITY) - (b.startMs ?? Number.POSITIVE_INFINITY) || a.row.index - b.row.index,
  );
  return { placed, milestones: page?.milestones ?? [], page };
}
