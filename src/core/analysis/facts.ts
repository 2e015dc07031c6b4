import { getHostname } from 'tldts';
import { readPolicy } from '../cache';
import { isForWholeHost } from '../content';
import { isRedirectStatus } from '../http';
import {
  type Exchange,
  findFailure,
  findHeader,
  findLines,
  findResponse,
  findStatus,
  type ResponsePart,
} from '../model';
import { type AnswerClue, readAnswerClue } from './answer-clue';
import { clockOffsetMs } from './clock';
import type { ExchangeRow } from './exchange-row';
import { findOperation } from './operation';
import { hashPayload } from './request-key';

/** What only the neighbours can tell. */
type Related =
  | 'errorInside'
  | 'fetchedAs'
  | 'fetchedFor'
  | 'findings'
  | 'holds'
  | 'parent'
  | 'namedBy'
  | 'parentEvidence'
  | 'preflightFor'
  | 'depth'
  | 'endpoint'
  | 'isOnRoute';

/** What is known of an exchange on its own, and the clues that its neighbours need. */
export interface ExchangeFacts extends Omit<ExchangeRow, 'pageInferred' | 'party' | 'startMs' | Related> {
  readonly hasServerAddress: boolean;
  readonly hasWireHeaders: boolean;
  readonly hasBody: boolean;
  readonly hasTimings: boolean;
  /** The request asked caches to be passed by (RFC 9111 5.2.1.4, 5.4). */
  readonly bypassesCache: boolean;
  readonly hasCredentials: boolean;
  /** It gives the browser a cookie that every later request to the host is to carry. */
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
  readonly initiatorType: string | undefined;
  /** A service worker made it. */
  readonly isByServiceWorker: boolean;
  /** The fetch of a service worker's script (Service Workers 2.4). */
  readonly isServiceWorkerScript: boolean;
  /** The script of a worker, of whatever kind (Fetch 2.2.5, destinations). */
  readonly isWorkerScript: boolean;
  /** Fetched for a page that may come (Sec-Purpose, Purpose). */
  readonly isPrefetch: boolean;
  readonly referer: string | undefined;
  /** Of a preflight: the method that it asks leave for. */
  readonly preflightMethod: string | undefined;
  readonly answerClue: AnswerClue | undefined;
}

/** Takes the facts of one exchange; headers and bodies can be let go afterwards. */
export function takeFacts(exchange: Exchange): ExchangeFacts {
  const response = findResponse(exchange);
  const { request } = exchange;
  const policy = readPolicy(exchange);
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
    isStorable: policy?.isStorable === true,
    freshSeconds: policy?.isStorable === true ? policy.freshSeconds : undefined,
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
    setsCookie: setsCookieForHost(exchange, response),
    clockOffsetMs: clockOffsetMs(exchange),
    isNavigation: exchange.isNavigation,
    frame: exchange.frame,
    noteCount: exchange.notes.length,
    connection: exchange.connectionId,
    location: findLocation(request.url, response),
    initiatorUrl: exchange.initiatorUrl,
    initiatorType: exchange.initiatorType,
    isByServiceWorker: exchange.isByServiceWorker,
    isServiceWorkerScript: findHeader(request.headers, 'service-worker') !== undefined,
    isWorkerScript:
      findHeader(request.headers, 'service-worker') !== undefined ||
      WORKERS.has(findHeader(request.headers, 'sec-fetch-dest')?.toLowerCase() ?? ''),
    isPrefetch:
      exchange.source.value === 'prefetched' ||
      /prefetch/i.test(findHeader(request.headers, 'sec-purpose') ?? findHeader(request.headers, 'purpose') ?? ''),
    referer: findHeader(request.headers, 'referer'),
    preflightMethod:
      request.method === 'OPTIONS' ? findHeader(request.headers, 'access-control-request-method') : undefined,
    answerClue: readAnswerClue(response),
  };
}

const setsCookieForHost = ({ request, startedAt }: Exchange, response: ResponsePart | undefined): boolean =>
  findLines(response?.headers ?? [], 'set-cookie').some((line) => isForWholeHost(line, request.url, startedAt));

const WORKERS: ReadonlySet<string> = new Set([
  'worker',
  'sharedworker',
  'serviceworker',
  'audioworklet',
  'paintworklet',
]);

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
