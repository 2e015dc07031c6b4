import { getDomain, getHostname } from 'tldts';
import { settleSource } from '../har';
import { isRedirectStatus, readHttpDate } from '../http';
import {
  type Exchange,
  findFailure,
  findHeader,
  findResponse,
  findStatus,
  type Page,
  type PageId,
  type Party,
  type ResponsePart,
} from '../model';
import { type AnswerClue, readAnswerClue } from './answer-clue';
import type { ExchangeRow } from './exchange-row';
import { type NavigationSplit, navigationAt } from './navigation';
import { findOperation } from './operation';
import { markRoute, type References, relate } from './relate';
import { hashPayload } from './request-key';

/** What only the neighbours can tell. */
type Related = 'parent' | 'namedBy' | 'parentEvidence' | 'preflightFor' | 'depth' | 'endpoint' | 'isOnRoute';

/** What is known of an exchange on its own, and the clues that its neighbours need. */
export interface ExchangeFacts extends Omit<ExchangeRow, 'pageInferred' | 'party' | 'startMs' | Related> {
  readonly hasServerAddress: boolean;
  readonly hasWireHeaders: boolean;
  readonly hasBody: boolean;
  readonly hasTimings: boolean;
  /** The request asked caches to be passed by (RFC 9111 5.2.1.4, 5.4). */
  readonly bypassesCache: boolean;
  readonly hasCredentials: boolean;
  readonly setsCookie: boolean;
  /** The server's clock less the recorder's, in ms, by the Date header (RFC 9110 6.6.1); unknown without one. */
  readonly clockOffsetMs: number | undefined;
  /** A document that the window as a whole went to, not one in a frame. */
  readonly isNavigation: boolean;
  /** The frame that asked, where the recorder names it. */
  readonly frame: string | undefined;
  readonly noteCount: number;
  /** Where a redirect leads, absolute. */
  readonly location: string | undefined;
  readonly initiatorUrl: string | undefined;
  readonly referer: string | undefined;
  /** Of a preflight: the method that it asks leave for. */
  readonly preflightMethod: string | undefined;
  readonly answerClue: AnswerClue | undefined;
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
    payloadHash: hashPayload(request),
    failure: findFailure(exchange),
    hasServerAddress: exchange.serverAddress !== undefined,
    hasWireHeaders:
      findHeader(request.headers, 'host') !== undefined || findHeader(request.headers, ':authority') !== undefined,
    hasBody: response?.body !== undefined,
    hasTimings: Object.values(exchange.phases).some((phase) => phase !== undefined),
    bypassesCache:
      /no-cache/i.test(findHeader(request.headers, 'cache-control') ?? '') ||
      findHeader(request.headers, 'pragma')?.toLowerCase() === 'no-cache',
    hasCredentials:
      findHeader(request.headers, 'cookie') !== undefined || findHeader(request.headers, 'authorization') !== undefined,
    setsCookie: response !== undefined && findHeader(response.headers, 'set-cookie') !== undefined,
    clockOffsetMs: findClockOffset(exchange),
    isNavigation: exchange.isNavigation,
    frame: exchange.frame,
    noteCount: exchange.notes.length,
    connection: exchange.connectionId,
    location: findLocation(request.url, response),
    initiatorUrl: exchange.initiatorUrl,
    referer: findHeader(request.headers, 'referer'),
    preflightMethod:
      request.method === 'OPTIONS' ? findHeader(request.headers, 'access-control-request-method') : undefined,
    answerClue: readAnswerClue(response),
  };
}

/** Where a redirect leads (RFC 9110 10.2.2), resolved against the address that was asked for. */
function findLocation(url: string, response: ResponsePart | undefined): string | undefined {
  if (response === undefined || !isRedirectStatus(response.status)) return undefined;
  const location = response.redirectUrl ?? findHeader(response.headers, 'location');
  return location === undefined ? undefined : parseAddress(location, url)?.href;
}

function parseAddress(address: string, base: string): URL | undefined {
  try {
    return new URL(address, base);
  } catch {
    return undefined;
  }
}

/** Date has whole seconds: on average it is half a second behind the instant that it names. */
const DATE_ROUNDING_MS = 500;

/** Date names the instant at which the server made its answer: when the first byte came, as the recorder saw it. */
function findClockOffset(exchange: Exchange): number | undefined {
  const date = readHttpDate(findHeader(findResponse(exchange)?.headers ?? [], 'date'));
  const { startedAt, phases, timeMs } = exchange;
  if (date === undefined || startedAt === undefined || exchange.source.value !== 'network') return undefined;
  const untilAnswerMs = (timeMs ?? 0) - (phases.downloadMs ?? 0);
  return date + DATE_ROUNDING_MS - (startedAt + untilAnswerMs);
}

/**
 * Puts exchanges into the context of their capture: the page each belongs to, its start on that page's clock, the
 * sources that only the neighbours can tell, the party. Rows stay in the order of the file.
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
  const workerPages = new Set<PageId | undefined>();
  const hasWireHeadersSomewhere = facts.some((fact) => fact.hasWireHeaders);
  facts.forEach((fact, place) => {
    if (fact.source === 'worker') workerPages.add(assigned[place]);
  });
  const relations = relate(facts, assigned, references);
  const rows = facts.map((fact, place): ExchangeRow => {
    const page = assigned[place];
    const { hasServerAddress, hasWireHeaders } = fact;
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
      party: parties.of(fact.host, documentHosts.get(page)),
      startedAt: fact.startedAt,
      startMs: fact.startedAt === undefined || origin === undefined ? undefined : fact.startedAt - origin,
      timeMs: fact.timeMs,
      phases: fact.phases,
      // A redirect that never went out has headers, which its recorder counts all the same.
      wireBytes: source.value === 'cache' && fact.source === 'network' ? 0 : fact.wireBytes,
      bodyBytes: fact.bodyBytes,
      mimeType: fact.mimeType,
      operation: fact.operation,
      payloadHash: fact.payloadHash,
      failure: fact.failure,
      connection: fact.connection,
      parent: relation?.parent,
      parentEvidence: relation?.parentEvidence,
      namedBy: relation?.namedBy,
      preflightFor: relation?.preflightFor,
      depth: relation?.depth,
      endpoint: relation?.endpoint ?? '',
      isOnRoute: false,
    };
  });
  return markRoute(rows, pages);
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

  /** First party: same registrable domain (public suffix list) as the page's document, or the very same host. */
  of(host: string, documentHost: string | undefined): Party | undefined {
    if (host === '' || documentHost === undefined || documentHost === '') return undefined;
    return this.#domainOf(host) === this.#domainOf(documentHost) ? 'first' : 'third';
  }

  #domainOf(host: string): string {
    const known = this.#domains.get(host) ?? getDomain(host) ?? host;
    this.#domains.set(host, known);
    return known;
  }
}
