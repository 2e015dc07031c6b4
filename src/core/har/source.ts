import { isFetched, isRedirectStatus } from '../http';
import { findHeader, type Judged, type NameValue, type Outcome, type Source } from '../model';
import { wordNoResponse } from '../wording';

export interface SourceClues {
  readonly url: string;
  readonly outcome: Outcome;
  readonly requestHeaders: readonly NameValue[];
  readonly fromWorker: boolean;
  readonly fromCache: string | undefined;
  readonly wasPushed: boolean;
  readonly fromPrefetch: boolean;
  /** The recorder's own `_transferSize`, in bytes; unknown where absent or negative. */
  readonly transferBytes: number | undefined;
  readonly headersBytes: number | undefined;
  /** Bytes of the response body on the wire; unknown where absent or negative. */
  readonly wireBodyBytes: number | undefined;
  readonly bodyBytes: number | undefined;
  /** HAR's own `cache.beforeRequest` names an entry of the cache. */
  readonly hadCacheEntry?: boolean;
  readonly waitMs?: number | undefined;
}

/** Where headers' length is not recorded: more than this on the wire is more than the headers of a 304. */
const HEADERS_ONLY_LIMIT_BYTES = 1024;
/** The packed headers (RFC 7541) of a 304 on a warm connection; an answer with a body is longer. */
const PACKED_HEADERS_LIMIT_BYTES = 150;

/**
 * Where a response came from, first match wins: worker, memory or disk, pushed, prefetched, none, revalidated, cache,
 * network. What only the neighbours can tell is settled by `settleSource`.
 */
export function classifySource(clues: SourceClues): Judged<Source> {
  if (clues.fromWorker) return { value: 'worker', evidence: 'recorded as from a service worker' };
  if (clues.fromCache === 'memory') return { value: 'memory', evidence: 'the recorder says memory cache' };
  if (clues.fromCache === 'disk') return { value: 'disk', evidence: 'the recorder says disk cache' };
  if (clues.fromPrefetch) return { value: 'prefetched', evidence: 'the recorder says prefetch cache' };
  if (clues.fromCache !== undefined) return { value: 'cache', evidence: `the recorder says "${clues.fromCache}"` };
  if (clues.wasPushed) return { value: 'pushed', evidence: 'the recorder says it was pushed' };
  if (clues.outcome.type === 'unanswered') return { value: 'none', evidence: wordNoResponse(clues.outcome.reason) };
  if (/^(data|blob):/i.test(clues.url)) return { value: 'unknown', evidence: 'its URL contains the content itself' };
  if (!isFetched(clues.url)) return { value: 'unknown', evidence: 'its URL leads to no network' };
  const { status } = clues.outcome.response;
  const condition = findCondition(clues.requestHeaders);
  if (status === 304) return { value: 'revalidated', evidence: 'status 304' };
  if (status === 200 && condition !== undefined && hasNoWireBody(clues)) {
    return { value: 'revalidated', evidence: `${condition} was sent and only headers came back` };
  }
  // Errors may be kept too (RFC 9111 3, heuristically cacheable statuses); what has a body and cost no byte did not travel.
  if (clues.transferBytes === 0 && (clues.bodyBytes ?? 0) > 0) {
    return { value: 'cache', evidence: 'body present, transfer size 0' };
  }
  const cameWithoutWaiting = clues.wireBodyBytes === 0 && (clues.waitMs ?? 0) === 0;
  if (clues.hadCacheEntry === true && (clues.bodyBytes ?? 0) > 0 && cameWithoutWaiting) {
    return { value: 'cache', evidence: 'HAR names its cache entry, and it came without a byte and without waiting' };
  }
  return { value: 'network', evidence: 'no sign of a cached copy' };
}

/** The conditional header of a request, by its name (RFC 9110 13.1.2, 13.1.3). */
function findCondition(headers: readonly NameValue[]): string | undefined {
  if (findHeader(headers, 'if-none-match') !== undefined) return 'If-None-Match';
  return findHeader(headers, 'if-modified-since') === undefined ? undefined : 'If-Modified-Since';
}

function hasNoWireBody(clues: SourceClues): boolean {
  if ((clues.bodyBytes ?? 0) === 0) return false;
  const wire = clues.transferBytes;
  if ((clues.wireBodyBytes ?? 0) > 0) return isOnlyPackedHeaders(clues, wire ?? clues.wireBodyBytes ?? 0);
  if (wire === undefined) return clues.wireBodyBytes === 0;
  return wire > 0 && wire <= Math.max(clues.headersBytes ?? 0, HEADERS_ONLY_LIMIT_BYTES);
}

/**
 * Over HTTP/2 some recorders measure no headers and count all that crossed as body. A whole answer would have brought
 * at least its Content-Length; without one, no answer with a body is as short as the packed headers of a 304.
 */
function isOnlyPackedHeaders(clues: SourceClues, wireBytes: number): boolean {
  if ((clues.headersBytes ?? 0) > 0 || clues.outcome.type === 'unanswered') return false;
  const length = Number(findHeader(clues.outcome.response.headers, 'content-length') ?? Number.NaN);
  if (Number.isFinite(length)) return wireBytes < length;
  return wireBytes <= PACKED_HEADERS_LIMIT_BYTES && wireBytes < (clues.bodyBytes ?? 0);
}

export interface SourceNeighbourhood {
  /** A service worker is seen at work on the exchange's page. */
  readonly workerControlsPage: boolean;
  /** Other exchanges carry the headers that only a request on the wire has, so this recorder does write them. */
  readonly neighboursHaveWireHeaders: boolean;
}

export interface SettlingClues {
  readonly source: Judged<Source>;
  readonly status: number | undefined;
  readonly hasServerAddress: boolean;
  readonly hasWireHeaders: boolean;
}

/** The source once the neighbours are known: a worker's answer that looks like cache, a redirect that never went out. */
export function settleSource(clues: SettlingClues, around: SourceNeighbourhood): Judged<Source> {
  const { source, status } = clues;
  if (source.value === 'cache' && around.workerControlsPage && !clues.hasServerAddress) {
    return {
      value: 'worker',
      evidence: 'transfer size recorded as 0, no server is named, and a service worker is at work',
    };
  }
  if (
    source.value === 'network' &&
    isRedirectStatus(status) &&
    !clues.hasWireHeaders &&
    around.neighboursHaveWireHeaders
  ) {
    return { value: 'cache', evidence: 'a redirect without the Host and Connection that its neighbours sent (weak)' };
  }
  return source;
}
