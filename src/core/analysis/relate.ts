import { addTo } from '../collections';
import { type ExchangeIndex, findMilestoneMs, type Page, type PageId } from '../model';
import { findParents, type ParentClue, plotRoute } from '../timing';
import { nameEndpoints } from './endpoint';
import type { ExchangeRow } from './exchange-row';
import type { ExchangeFacts } from './facts';
import { routeStops } from './route-stop';

type Relation = Pick<ExchangeRow, 'parent' | 'namedBy' | 'parentEvidence' | 'preflightFor' | 'depth' | 'endpoint'>;

/** For exchanges that a body names, the exchange whose body that is; `asked` leaves out what was not asked for by it. */
export interface References {
  readonly named: ReadonlyMap<ExchangeIndex, ExchangeIndex>;
  readonly asked: ReadonlyMap<ExchangeIndex, ExchangeIndex>;
}
export const NO_REFERENCES: References = { named: new Map(), asked: new Map() };

/** What ties each exchange to the others: parent, depth, preflight, endpoint. In the order given. */
export function relate(
  facts: readonly ExchangeFacts[],
  assigned: readonly (PageId | undefined)[],
  references: References,
): Relation[] {
  const parents = findParents(facts.map((fact, place) => clueOf(fact, assigned[place], references)));
  const endpoints = nameEndpoints(facts);
  return facts.map(({ index }, place) => {
    const found = parents[place];
    return {
      parent: found?.parent,
      parentEvidence: found?.evidence,
      namedBy: references.named.get(index),
      preflightFor: found?.preflightFor,
      depth: found?.depth,
      endpoint: endpoints[place] ?? '',
    };
  });
}

function clueOf(fact: ExchangeFacts, page: PageId | undefined, references: References): ParentClue {
  const { index, method, url, kind, location, initiatorUrl, referer, preflightMethod, startedAt } = fact;
  const untilAnswerMs = (fact.timeMs ?? 0) - (fact.phases.downloadMs ?? 0);
  return {
    index,
    page,
    method,
    url,
    kind,
    startMs: startedAt,
    answeredMs: startedAt === undefined || fact.status === undefined ? undefined : startedAt + untilAnswerMs,
    location,
    initiatorUrl,
    referer,
    preflightMethod,
    referencedBy: references.asked.get(index),
  };
}

/** Marks the exchanges that stand on the route of their page. */
export function markRoute(rows: readonly ExchangeRow[], pages: readonly Page[]): ExchangeRow[] {
  const rowsOf = new Map<PageId | undefined, [ExchangeRow, ...ExchangeRow[]]>();
  for (const row of rows) addTo(rowsOf, row.pageId, row);
  const onRoute = new Set<number>();
  const pageOf = new Map<PageId | undefined, Page>(pages.map((page) => [page.id, page]));
  for (const [id, own] of rowsOf) {
    const stops = routeStops(own);
    if (stops.length === 0) continue;
    const page = pageOf.get(id);
    const targetMs =
      (page === undefined ? undefined : (findMilestoneMs(page, 'loaded') ?? findMilestoneMs(page, 'domReady'))) ??
      stops.reduce((last, { endMs }) => Math.max(last, endMs), 0);
    const originMs = stops.reduce((earliest, { startMs }) => Math.min(earliest, startMs), 0);
    for (const leg of plotRoute(stops, originMs, targetMs)) if (leg.type === 'exchange') onRoute.add(leg.index);
  }
  return rows.map((row) => (onRoute.has(row.index) ? { ...row, isOnRoute: true } : row));
}
