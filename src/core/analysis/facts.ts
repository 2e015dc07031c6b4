import { getHostname } from 'tldts';
import { isRedirectStatus, readHttpDate } from '../http';
import { type Exchange, findFailure, findHeader, findResponse, findStatus, type ResponsePart } from '../model';
import { type AnswerClue, readAnswerClue } from './answer-clue';
import type { ExchangeRow } from './exchange-row';
import { findOperation } from './operation';
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
    clockOffsetMs: clockOffsetMs(readHttpDate(findHeader(response?.headers ?? [], 'date')), {
      ...exchange,
      source: exchange.source.value,
    }),
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

/** Clocks that differ by no more are as good as the same: Date has whole seconds, and answers take their time. */
export const CLOCK_TOLERANCE_MS = 2000;

/** Date has whole seconds: on average it is half a second behind the instant that it names. */
const DATE_ROUNDING_MS = 500;

/**
 * The server's clock less the recorder's, in ms; unknown where nothing came from the server itself, or its start is. Date
 * names the instant at which the server made its answer: when the first byte came, as the recorder saw it.
 */
export function clockOffsetMs(
  date: number | undefined,
  { startedAt, phases, timeMs, source }: Pick<ExchangeRow, 'startedAt' | 'phases' | 'timeMs' | 'source'>,
): number | undefined {
  if (date === undefined || startedAt === undefined || source !== 'network') return undefined;
  const untilAnswerMs = (timeMs ?? 0) - (phases.downloadMs ?? 0);
  return date + DATE_ROUNDING_MS - (startedAt + untilAnswerMs);
}
