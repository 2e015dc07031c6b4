import { addTo } from '../collections';
import type { NamedHow } from '../links';
import { type ExchangeIndex, findMilestoneMs, type Page, type PageId } from '../model';
import { findParents, type ParentClue, plotRoute } from '../timing';
import { nameEndpoints } from './endpoint';
import type { ExchangeRow } from './exchange-row';
import type { ExchangeFacts } from './facts';
import { findGoal, type Moments } from './goal';
import { findHolds } from './holds';
import { ofLoad, routeStops } from './route-stop';

type Relation = Pick<
  ExchangeRow,
  'parent' | 'namedBy' | 'parentEvidence' | 'preflightFor' | 'holds' | 'depth' | 'endpoint'
>;

/**
 * For exchanges that a body names, the exchange whose body that is; `asked` leaves out what was not asked for by it;
 * `manners` says how tags and imports name them.
 */
export interface References {
  readonly named: ReadonlyMap<ExchangeIndex, ExchangeIndex>;
  readonly asked: ReadonlyMap<ExchangeIndex, ExchangeIndex>;
  readonly manners: ReadonlyMap<ExchangeIndex, NamedHow>;
}
export const NO_REFERENCES: References = { named: new Map(), asked: new Map(), manners: new Map() };

/**
 * What ties each exchange to the others: parent, depth, preflight, endpoint. In the order given.
 * @param madeByWorker what a service worker fetched for a page
 */
export function relate(
  facts: readonly ExchangeFacts[],
  assigned: readonly (PageId | undefined)[],
  references: References,
  madeByWorker: ReadonlySet<ExchangeIndex>,
): Relation[] {
  const parents = findParents(facts.map((fact, place) => clueOf(fact, assigned[place], references)));
  const endpoints = nameEndpoints(facts);
  const clues = facts.map((fact, place) => ({
    fact,
    isByWorker: fact.isByServiceWorker || madeByWorker.has(fact.index),
    parent: parents[place]?.parent,
    parentEvidence: parents[place]?.evidence,
  }));
  clues.sort((a, b) => (a.fact.startedAt ?? 0) - (b.fact.startedAt ?? 0) || a.fact.index - b.fact.index);
  const holds = findHolds(clues, references.manners);
  return facts.map(({ index }, place) => {
    const found = parents[place];
    return {
      parent: found?.parent,
      parentEvidence: found?.evidence,
      namedBy: references.named.get(index),
      preflightFor: found?.preflightFor,
      holds: holds.get(index),
      depth: found?.depth,
      endpoint: endpoints[place] ?? '',
    };
  });
}

function clueOf(fact: ExchangeFacts, page: PageId | undefined, references: References): ParentClue {
  const { index, method, url, kind, location, initiatorUrl, referer, preflightMethod, startedAt } = fact;
  const untilAnswerMs = (fact.timeMs ?? 0) - (fact.phases.receiveMs ?? 0);
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
    const stops = routeStops(ofLoad(own));
    const page = pageOf.get(id);
    const moments = page === undefined ? undefined : momentsOf(page);
    const found = stops.length === 0 ? undefined : findGoal(stops, moments);
    if (found === undefined) continue;
    for (const leg of plotRoute(stops, found.originMs, found.goal)) {
      if (leg.type === 'exchange') onRoute.add(leg.index);
    }
  }
  return rows.map((row) => (onRoute.has(row.index) ? { ...row, isOnRoute: true } : row));
}

const momentsOf = (page: Page): Moments => ({
  loadedMs: findMilestoneMs(page, 'loaded'),
  domReadyMs: findMilestoneMs(page, 'domReady'),
});
