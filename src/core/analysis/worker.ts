import { addTo } from '../collections';
import type { ExchangeIndex, Judged, PageId, Source } from '../model';
import type { ExchangeFacts } from './facts';

/** Pages that a service worker is seen at work for. */
export type WorkerPages = ReadonlySet<PageId | undefined>;

/**
 * The pages of a service worker, by every sign that recorders leave: an answer that is said to be its, a request that it
 * is said to have made, the fetch of its script (Service Workers 2.4, `Service-Worker: script`). Once it stands for a
 * host, later documents of that host are its as well.
 * @param assigned the page of each, in the same order
 */
export function findWorkerPages(
  facts: readonly ExchangeFacts[],
  assigned: readonly (PageId | undefined)[],
): WorkerPages {
  const pages = new Set<PageId | undefined>();
  const since = new Map<string, number>();
  facts.forEach((fact, place) => {
    const isMade = fact.isByServiceWorker || fact.isServiceWorkerScript;
    if (fact.source !== 'worker' && !isMade) return;
    pages.add(assigned[place]);
    if (isMade) since.set(fact.host, Math.min(since.get(fact.host) ?? Number.POSITIVE_INFINITY, fact.startedAt ?? 0));
  });
  if (since.size === 0) return pages;
  facts.forEach((fact, place) => {
    const sinceMs = since.get(fact.host);
    if (fact.isNavigation && sinceMs !== undefined && (fact.startedAt ?? 0) >= sinceMs) pages.add(assigned[place]);
  });
  return pages;
}

/** Starts are recorded to the millisecond. */
const ROUNDING_MS = 1;

/**
 * What a worker fetched to answer a page: of each request that it made, the page's request for the same that it answered
 * meanwhile. Both are one request, seen twice.
 * @param sources where each came from, once the neighbours are known, in the same order
 * @param pages those that a worker is at work for
 */
export function tieToWorker(
  facts: readonly ExchangeFacts[],
  sources: readonly Judged<Source>[],
  pages: WorkerPages,
): ReadonlyMap<ExchangeIndex, ExchangeIndex> {
  if (pages.size === 0) return new Map();
  const answered = new Map<string, [ExchangeFacts, ...ExchangeFacts[]]>();
  facts.forEach((fact, place) => {
    if (sources[place]?.value === 'worker' || (fact.status === undefined && !fact.isByServiceWorker))
      addTo(answered, keyOf(fact), fact);
  });
  const ties = new Map<ExchangeIndex, ExchangeIndex>();
  const taken = new Set<ExchangeIndex>();
  facts.forEach((fact, place) => {
    if (sources[place]?.value === 'worker' || fact.isServiceWorkerScript) return;
    const askedBy = answered.get(keyOf(fact))?.find((page) => {
      const from = (page.startedAt ?? 0) - ROUNDING_MS;
      const to = (page.startedAt ?? 0) + (page.timeMs ?? 0) + ROUNDING_MS;
      const isDuring = fact.startedAt !== undefined && fact.startedAt >= from && fact.startedAt <= to;
      const isAnswered = page.status !== undefined || fact.isByServiceWorker;
      return page.index !== fact.index && isDuring && isAnswered && !taken.has(page.index);
    });
    if (askedBy === undefined) return;
    taken.add(askedBy.index);
    ties.set(fact.index, askedBy.index);
  });
  return ties;
}

const keyOf = ({ method, url }: ExchangeFacts): string => `${method} ${url}`;
