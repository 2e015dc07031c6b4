import { type ExchangeRow, type PageOverview, readRouteTo } from '#core/analysis';
import { type BriefPage, plotPage } from '#core/brief';

/** The route of a page to where the address asks it to lead; to its load where there is no such thing on this page. */
export function plotTo(
  rows: readonly ExchangeRow[],
  page: PageOverview | undefined,
  asked: string | undefined,
): BriefPage | undefined {
  const to = readRouteTo(asked ?? '', page?.milestones ?? []);
  return (to === undefined ? undefined : plotPage(rows, page, to)) ?? plotPage(rows, page);
}
