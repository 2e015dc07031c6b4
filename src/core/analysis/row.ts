import { getDomain } from 'tldts';
import { settleSource } from '../har';
import { isFromCopy, type Page, type PageId, type Party } from '../model';
import type { ExchangeRow } from './exchange-row';
import type { ExchangeFacts } from './facts';
import { type NavigationSplit, navigationAt, splitNavigations } from './navigation';
import { markRoute, type References, relate } from './relate';
import { findWorkerPages, tieToWorker } from './worker';

/**
 * Puts exchanges into the context of their capture: the page each belongs to, its start on that page's clock, the
 * sources that only the neighbours can tell, the party. Rows stay in the order of the file. Long because each field of a
 * row is set here, once.
 */
export function buildRows(
  facts: readonly ExchangeFacts[],
  split: NavigationSplit,
  references: References,
): ExchangeRow[] {
  const { pages } = split;
  const assigned = assignPages(facts, split);
  const starts = findPageStarts(facts, pages, assigned);
  const documentHosts = findDocumentHosts(facts, assigned);
  const parties = new Parties();
  const workerPages = findWorkerPages(facts, assigned);
  const neighboursHaveWireHeaders = facts.some((fact) => fact.hasWireHeaders);
  const sources = facts.map((fact, place) =>
    settleSource(
      { ...fact, source: { value: fact.source, evidence: fact.sourceEvidence } },
      { workerControlsPage: workerPages.has(assigned[place]), neighboursHaveWireHeaders },
    ),
  );
  const fetchedFor = tieToWorker(facts, sources, workerPages);
  const fetchedAs = new Map([...fetchedFor].map(([own, page]) => [page, own]));
  const relations = relate(facts, assigned, references, new Set(fetchedFor.keys()));
  const rows = facts.map((fact, place): ExchangeRow => {
    const page = assigned[place];
    const source = sources[place] ?? { value: fact.source, evidence: fact.sourceEvidence };
    const origin = starts.get(page);
    const relation = relations[place];
    return {
      index: fact.index,
      pageId: page,
      pageInferred: page !== undefined && fact.pageId !== page,
      method: fact.method,
      url: fact.url,
      host: fact.host,
      status: fact.status,
      protocol: fact.protocol,
      kind: fact.kind,
      kindEvidence: fact.kindEvidence,
      source: source.value,
      sourceEvidence: source.evidence,
      fetchedFor: fetchedFor.get(fact.index),
      fetchedAs: fetchedAs.get(fact.index),
      party: parties.of(fact.host, documentHosts.get(page)),
      startedAt: fact.startedAt,
      startMs: fact.startedAt === undefined || origin === undefined ? undefined : fact.startedAt - origin,
      timeMs: fact.timeMs,
      phases: fact.phases,
      // A redirect that never went out has headers, which its recorder counts all the same.
      wireBytes: isFromCopy(source.value) ? 0 : fact.wireBytes,
      bodyBytes: fact.bodyBytes,
      mimeType: fact.mimeType,
      operation: fact.operation,
      payloadHash: fact.payloadHash,
      isStorable: fact.isStorable,
      freshSeconds: fact.freshSeconds,
      errorInside: undefined,
      findings: undefined,
      failure: fact.failure,
      connection: fact.connection,
      parent: relation?.parent,
      parentEvidence: relation?.parentEvidence,
      namedBy: relation?.namedBy,
      preflightFor: relation?.preflightFor,
      holds: relation?.holds,
      depth: relation?.depth,
      endpoint: relation?.endpoint ?? '',
      isOnRoute: false,
    };
  });
  return markRoute(rows, pages);
}

/** Exchanges with the pages that they belong to, where nothing else of their context is asked for. */
export function onPages(facts: readonly ExchangeFacts[], recordedPages: readonly Page[]): ExchangeFacts[] {
  const assigned = assignPages(facts, splitNavigations(facts, recordedPages));
  return facts.map((fact, place) => (fact.pageId === assigned[place] ? fact : { ...fact, pageId: assigned[place] }));
}

/** The recorder's page where it is one of the capture's; else the page in force when the exchange started. */
function assignPages(facts: readonly ExchangeFacts[], { pages, partsOf }: NavigationSplit): (PageId | undefined)[] {
  const known = new Set(pages.map((page) => page.id));
  const inOrder = pages
    .filter((page) => page.startedAt !== undefined)
    .sort((a, b) => (a.startedAt ?? 0) - (b.startedAt ?? 0));
  return facts.map((fact) => {
    if (fact.pageId !== undefined && known.has(fact.pageId)) return fact.pageId;
    const parts = fact.pageId === undefined ? undefined : partsOf.get(fact.pageId);
    if (parts !== undefined) return navigationAt(parts, fact.startedAt);
    return navigationAt(inOrder, fact.startedAt) ?? pages[0]?.id;
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

function findDocumentHosts(
  facts: readonly ExchangeFacts[],
  assigned: readonly (PageId | undefined)[],
): Map<PageId | undefined, string> {
  const hosts = new Map<PageId | undefined, string>();
  facts.forEach((fact, place) => {
    if (fact.kind === 'document' && !hosts.has(assigned[place])) hosts.set(assigned[place], fact.host);
  });
  return hosts;
}

/** Parties by host. Looking a host up among the public suffixes takes long, and captures have few hosts. */
class Parties {
  readonly #domains = new Map<string, string>();

  /**
   * First party: same registrable domain (public suffix list) as the page's document, or the very same host. What runs on
   * the recording computer itself is one party: nobody else's.
   */
  of(host: string, documentHost: string | undefined): Party | undefined {
    if (host === '' || documentHost === undefined || documentHost === '') return undefined;
    return this.#domainOf(host) === this.#domainOf(documentHost) ? 'first' : 'third';
  }

  #domainOf(host: string): string {
    const known = this.#domains.get(host) ?? (isLoopback(host) ? LOOPBACK : (getDomain(host) ?? host));
    this.#domains.set(host, known);
    return known;
  }
}

const LOOPBACK = 'localhost';

/** RFC 6761 6.3, RFC 1122 3.2.1.3, RFC 4291 2.5.3; a host may have its port with it. */
const isLoopback = (host: string): boolean =>
  /^(?:(?:.+\.)?localhost|127(?:\.\d{1,3}){3}|\[?::1\]?)\.?(?::\d+)?$/i.test(host);
