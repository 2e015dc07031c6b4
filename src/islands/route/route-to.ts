import { type ExchangeRow, type PageOverview, readRouteTo } from '#core/analysis';
import { type BriefPage, plotPage } from '#core/brief';

interface Plotted {
  readonly rows: readonly ExchangeRow[];
  readonly page: PageOverview | undefined;
  readonly asked: string | undefined;
  readonly brief: BriefPage | undefined;
}

/** The last one: the brief and the waterfall ask for the same, and so does whoever comes back. */
let last: Plotted | undefined;

/**
 * The route of a page to where the address asks it to lead; to its load where there is no such thing on this page.
 * @param rows all exchanges of the capture
 */
export function plotTo(
  rows: readonly ExchangeRow[],
  page: PageOverview | undefined,
  asked: string | undefined,
): BriefPage | undefined {
  if (last?.rows === rows && last.page === page && last.asked === asked) return last.brief;
  const own = (page === undefined ? rows : rows.filter(({ pageId }) => pageId === page.id)).toSorted(
    (a, b) => (a.startMs ?? 0) - (b.startMs ?? 0) || a.index - b.index,
  );
  const to = readRouteTo(asked ?? '', page?.milestones ?? []);
  const brief = (to === undefined ? undefined : plotPage(own, page, to)) ?? plotPage(own, page);
  last = { rows, page, asked, brief };
  return brief;
}
