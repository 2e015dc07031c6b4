import { getDomain, getHostname } from 'tldts';
import { settleSource } from '../har';
import {
  type Exchange,
  findFailure,
  findHeader,
  findResponse,
  findStatus,
  type Page,
  type PageId,
  type Party,
} from '../model';
import type { ExchangeRow } from './exchange-row';
import { findOperation } from './operation';

/** What is known of an exchange on its own, and the clues that its neighbours need. */
export interface ExchangeFacts extends Omit<ExchangeRow, 'pageInferred' | 'party' | 'startMs'> {
  readonly hasServerAddress: boolean;
  readonly hasWireHeaders: boolean;
  readonly hasBody: boolean;
  readonly hasTimings: boolean;
}

/** Takes the facts of one exchange; headers and bodies can be let go afterwards. */
export function takeFacts(exchange: Exchange): ExchangeFacts {
  const response = findResponse(exchange);
  const { request } = exchange;
  return {
    index: exchange.index,
    pageId: exchange.pageId,
    method: request.method,
    url: request.url,
    host: getHostname(request.url) ?? '',
    status: findStatus(exchange),
    protocol: response?.protocol ?? request.protocol,
    kind: exchange.kind.value,
    kindEvidence: exchange.kind.evidence,
    source: exchange.source.value,
    sourceEvidence: exchange.source.evidence,
    startedAt: exchange.startedAt,
    timeMs: exchange.timeMs,
    phases: exchange.phases,
    wireBytes: exchange.wireBytes,
    bodyBytes: exchange.bodyBytes,
    mimeType: response?.mimeType,
    operation: findOperation(request),
    failure: findFailure(exchange),
    hasServerAddress: exchange.serverAddress !== undefined,
    hasWireHeaders:
      findHeader(request.headers, 'host') !== undefined || findHeader(request.headers, ':authority') !== undefined,
    hasBody: response?.body !== undefined,
    hasTimings: Object.values(exchange.phases).some((phase) => phase !== undefined),
  };
}

/**
 * Puts exchanges into the context of their capture: the page each belongs to, its start on that page's clock, the
 * sources that only the neighbours can tell, the party. Rows stay in the order of the file.
 */
export function buildRows(facts: readonly ExchangeFacts[], pages: readonly Page[]): ExchangeRow[] {
  const assigned = assignPages(facts, pages);
  const starts = findPageStarts(facts, pages, assigned);
  const firstDocuments = findDocumentUrls(facts, assigned);
  const workerPages = new Set<PageId | undefined>();
  const hasWireHeadersSomewhere = facts.some((fact) => fact.hasWireHeaders);
  facts.forEach((fact, place) => {
    if (fact.source === 'worker') workerPages.add(assigned[place]);
  });
  return facts.map((fact, place) => {
    const page = assigned[place];
    const { hasServerAddress, hasWireHeaders, hasBody, hasTimings, ...rest } = fact;
    const source = settleSource(
      {
        source: { value: fact.source, evidence: fact.sourceEvidence },
        status: fact.status,
        hasServerAddress,
        hasWireHeaders,
      },
      { workerControlsPage: workerPages.has(page), neighboursHaveWireHeaders: hasWireHeadersSomewhere },
    );
    const origin = starts.get(page);
    return {
      ...rest,
      pageId: page,
      pageInferred: page !== undefined && fact.pageId !== page,
      source: source.value,
      sourceEvidence: source.evidence,
      party: findParty(fact.url, firstDocuments.get(page)),
      startMs: fact.startedAt === undefined || origin === undefined ? undefined : fact.startedAt - origin,
    };
  });
}

/** The recorder's page where it is one of the capture's; else the page in force when the exchange started. */
function assignPages(facts: readonly ExchangeFacts[], pages: readonly Page[]): (PageId | undefined)[] {
  const known = new Set(pages.map((page) => page.id));
  const inOrder = pages
    .filter((page) => page.startedAt !== undefined)
    .sort((a, b) => (a.startedAt ?? 0) - (b.startedAt ?? 0));
  return facts.map((fact) => {
    if (fact.pageId !== undefined && known.has(fact.pageId)) return fact.pageId;
    const start = fact.startedAt;
    const inForce = start === undefined ? undefined : inOrder.findLast((page) => (page.startedAt ?? 0) <= start);
    return (inForce ?? inOrder[0] ?? pages[0])?.id;
  });
}

/** Time zero of each page: its own start, else its first exchange's; without pages the first exchange of all. */
function findPageStarts(
  facts: readonly ExchangeFacts[],
  pages: readonly Page[],
  assigned: readonly (PageId | undefined)[],
): Map<PageId | undefined, number> {
  const starts = new Map<PageId | undefined, number>();
  facts.forEach((fact, place) => {
    const earliest = starts.get(assigned[place]);
    if (fact.startedAt === undefined) return;
    if (earliest === undefined || fact.startedAt < earliest) starts.set(assigned[place], fact.startedAt);
  });
  for (const page of pages) if (page.startedAt !== undefined) starts.set(page.id, page.startedAt);
  return starts;
}

function findDocumentUrls(
  facts: readonly ExchangeFacts[],
  assigned: readonly (PageId | undefined)[],
): Map<PageId | undefined, string> {
  const urls = new Map<PageId | undefined, string>();
  facts.forEach((fact, place) => {
    if (fact.kind === 'document' && !urls.has(assigned[place])) urls.set(assigned[place], fact.url);
  });
  return urls;
}

/** First party: same registrable domain (public suffix list) as the page's document, or the very same host. */
function findParty(url: string, documentUrl: string | undefined): Party | undefined {
  if (documentUrl === undefined) return undefined;
  const own = getDomain(documentUrl) ?? getHostname(documentUrl);
  const other = getDomain(url) ?? getHostname(url);
  if (own === null || other === null) return undefined;
  return own === other ? 'first' : 'third';
}
