import { readFailReason } from '../http';
import {
  type Exchange,
  epochMs,
  exchangeIndex,
  findHeader,
  isFromCopy,
  type NameValue,
  type Outcome,
  pageId,
  type RequestPart,
  type ResponsePart,
  type Source,
  type StreamMessage,
} from '../model';
import { readInstant } from './instant';
import { classifyKind } from './kind';
import { readNameValues, splitSetCookies } from './name-values';
import { NOTE_BEGINS } from './note';
import { measureText, readBodyText, readPayload } from './recorded';
import {
  asAmount,
  asFilledText,
  asList,
  asNumber,
  asText,
  isObject,
  type Json,
  type JsonObject,
  member,
} from './shape';
import { classifySource } from './source';
import { readClock } from './timings';

/**
 * Reads one entry of `log.entries` into the model: every field by its HAR 1.2 meaning, recorders' `_` fields where they
 * say more. Odd values are kept and noted, never thrown over; unknown stays unknown. What depends on other exchanges
 * (page, party, some sources) is settled later by `buildRows`.
 * @param place index in `log.entries`, from 0
 */
export function normaliseEntry(entry: JsonObject, place: number): Exchange {
  const notes: string[] = [];
  const request = readRequest(member(entry, 'request'), notes);
  const outcome = readOutcome(entry, notes);
  const isPlainHttp = /^(http|ws):/i.test(request.url);
  const responseRaw = member(entry, 'response');
  const fromCache = readFromCache(entry, responseRaw);
  const clock = readClock(entry, isPlainHttp, outcome.type !== 'unanswered' && fromCache === undefined);
  const sizes = readSizes(entry, outcome);
  const mimeType = outcome.type === 'unanswered' ? undefined : outcome.response.mimeType;
  const page = asFilledText(member(entry, 'pageref'));
  const connection = member(entry, '_connectionId') ?? member(entry, 'connection');
  const source = classifySource({
    url: request.url,
    outcome,
    requestHeaders: request.headers,
    fromWorker: isTrue(member(entry, '_fetchedViaServiceWorker') ?? member(responseRaw, '_fetchedViaServiceWorker')),
    fromCache,
    wasPushed: isTrue(member(entry, '_was_pushed')),
    fromPrefetch: isTrue(member(entry, '_fromPrefetchCache') ?? member(responseRaw, '_fromPrefetchCache')),
    transferBytes: sizes.transferBytes,
    headersBytes: sizes.headersBytes,
    wireBodyBytes: sizes.wireBodyBytes,
    bodyBytes: sizes.bodyBytes,
    hadCacheEntry: isObject(member(member(entry, 'cache'), 'beforeRequest')),
    waitMs: clock.phases.waitMs,
  });
  return {
    index: exchangeIndex(place),
    pageId: page === undefined ? undefined : pageId(page),
    startedAt: readStart(entry, notes),
    timeMs: clock.timeMs,
    phases: clock.phases,
    request,
    outcome,
    wireBytes: crossingBytes(sizes, source.value),
    bodyBytes: sizes.bodyBytes,
    kind: classifyKind({
      resourceType: asFilledText(member(entry, '_resourceType')),
      method: request.method,
      url: request.url,
      requestHeaders: request.headers,
      mimeType,
    }),
    source,
    serverAddress: asFilledText(member(entry, 'serverIPAddress')),
    connectionId: typeof connection === 'number' ? String(connection) : asFilledText(connection),
    priority: asFilledText(member(entry, '_priority')),
    initiatorUrl: readInitiatorUrl(member(entry, '_initiator')),
    initiatorType: asFilledText(member(member(entry, '_initiator'), 'type'))?.toLowerCase(),
    isByServiceWorker: asFilledText(member(entry, '_serviceWorkerRef')) !== undefined,
    isNavigation: isNavigation(entry, request.headers),
    frame: asFilledText(member(entry, '_frameref')),
    messages: readMessages(entry),
    notes: [...notes, ...clock.notes],
  };
}

/** When the exchange began; what is no instant is noted rather than guessed at. */
function readStart(entry: Json, notes: string[]): Exchange['startedAt'] {
  const raw = member(entry, 'startedDateTime');
  const instant = readInstant(raw);
  if (instant === undefined && raw !== undefined && raw !== null && raw !== '') {
    notes.push(`its start cannot be read as an instant: ${JSON.stringify(raw).slice(0, 80)}`);
  }
  return instant?.at;
}

const NOT_CACHED = new Set(['false', 'no', 'none', '0', 'network']);

/** The recorder's own word for the cache that answered: "memory", "disk", or another. */
function readFromCache(entry: Json, response: Json | undefined): string | undefined {
  const raw = member(entry, '_fromCache') ?? member(response, '_fromCache');
  const word = asFilledText(raw)?.trim().toLowerCase();
  if (word !== undefined && !NOT_CACHED.has(word)) {
    const cache = /\b(memory|disk)\b/.exec(word.replaceAll(/[-_]/g, ' '))?.[1];
    return cache ?? (word === 'true' ? 'cache' : word);
  }
  if (isTrue(member(entry, '_fromDiskCache') ?? member(response, '_fromDiskCache'))) return 'disk';
  if (isTrue(member(entry, '_fromMemoryCache') ?? member(response, '_fromMemoryCache'))) return 'memory';
  return isTrue(raw) ? 'cache' : undefined;
}

/** `_initiator`: an address, or an object with one or with the script's call frames, the innermost first; or that as text. */
function readInitiatorUrl(raw: Json | undefined): string | undefined {
  if (typeof raw === 'string') {
    if (/^\s*\{/.test(raw)) return readInitiatorUrl(parsedObject(raw));
    return /^[a-z][a-z0-9+.-]*:\/\//i.test(raw) ? raw : undefined;
  }
  let stack = member(raw, 'stack');
  for (let depth = 0; isObject(stack) && depth < STACK_DEPTH; depth++, stack = member(stack, 'parent')) {
    for (const frame of asList(member(stack, 'callFrames'))) {
      const url = asFilledText(member(frame, 'url'));
      if (url !== undefined) return url;
    }
  }
  return asFilledText(member(raw, 'url'));
}
/** Stacks of what was awaited hang below one another; a hostile one could be endless. */
const STACK_DEPTH = 32;

function parsedObject(text: string): Json | undefined {
  try {
    const value = JSON.parse(text) as Json;
    return isObject(value) ? value : undefined;
  } catch {
    return undefined;
  }
}

/** By the recorder's own word, else by fetch metadata; old recorders have neither, and their pages tell. */
function isNavigation(entry: Json, headers: readonly NameValue[]): boolean {
  if (isTrue(member(entry, '_isNavigationRequest'))) return true;
  const mode = findHeader(headers, 'sec-fetch-mode')?.toLowerCase();
  const destination = findHeader(headers, 'sec-fetch-dest')?.toLowerCase();
  return mode === 'navigate' && (destination === undefined || destination === 'document');
}

/** True for the several ways recorders write a yes. */
const isTrue = (value: Json | undefined): boolean => value === true || value === 1 || value === '1' || value === 'true';

function readRequest(raw: Json | undefined, notes: string[]): RequestPart {
  if (asFilledText(member(raw, 'method')) === undefined) notes.push('it names no method; GET was taken');
  if (asFilledText(member(raw, 'url')) === undefined) notes.push('it names no address');
  const headers = readNameValues(member(raw, 'headers'), 'request headers', notes);
  const cookies = headers.some(({ name }) => name.toLowerCase() === 'cookie')
    ? []
    : readNameValues(member(raw, 'cookies'), 'cookies', notes);
  return {
    method: asFilledText(member(raw, 'method')) ?? 'GET',
    url: asText(member(raw, 'url')) ?? '',
    protocol: readProtocol(asFilledText(member(raw, 'httpVersion'))),
    headers,
    ...(cookies.length === 0 ? {} : { cookies }),
    query: readNameValues(member(raw, 'queryString'), 'parameters', notes),
    payload: readPayload(member(raw, 'postData'), notes),
    headersBytes: asAmount(member(raw, 'headersSize')),
    bodyBytes: asAmount(member(raw, 'bodySize')),
  };
}

/** Status 0, negative or missing: no response arrived. A status with a failure text: cut off after the headers. */
function readOutcome(entry: Json, notes: string[]): Outcome {
  const raw = member(entry, 'response');
  const recorded =
    asFilledText(member(raw, '_error')) ??
    asFilledText(member(entry, '_error')) ??
    asFilledText(member(raw, '_failureText'));
  const status = readStatus(member(raw, 'status'));
  if (status === undefined || status <= 0) {
    const elsewhere = asFilledText(member(raw, 'statusText')) ?? recordedComment(member(entry, 'comment'));
    const words = recorded ?? elsewhere;
    return { type: 'unanswered', reason: readFailReason(words), recorded: words };
  }
  const response = readResponse(raw, status, notes);
  return recorded === undefined
    ? { type: 'answered', response }
    : { type: 'cut', response, reason: readFailReason(recorded), recorded };
}

/** What a recorder says in a comment (HAR 1.2), apart from what somebody noted behind it. */
function recordedComment(comment: Json | undefined): string | undefined {
  const text = asFilledText(comment);
  const own = text?.split(/\n\n/).filter((part) => !part.startsWith(NOTE_BEGINS));
  return own === undefined || own.length === 0 ? undefined : own.join('\n\n');
}

/** The versions of HTTP by one name each, those of TLS's ALPN (RFC 9113 3.1, RFC 9114 3.1) where there is one. */
const PROTOCOLS = new Map([
  ['http/2', 'h2'],
  ['http/2.0', 'h2'],
  ['http2', 'h2'],
  ['h2', 'h2'],
  ['http/3', 'h3'],
  ['http/3.0', 'h3'],
  ['h3', 'h3'],
  ['http/1.1', 'HTTP/1.1'],
  ['http/1.0', 'HTTP/1.0'],
]);

const readProtocol = (text: string | undefined): string | undefined =>
  text === undefined ? undefined : (PROTOCOLS.get(text.trim().toLowerCase()) ?? text);

/** A status code, also where its reason stands behind it: "200 OK". */
function readStatus(raw: Json | undefined): number | undefined {
  const code = typeof raw === 'string' ? /^\s*(\d{3})(?:\s|$)/.exec(raw)?.[1] : undefined;
  return code === undefined ? asNumber(raw) : Number(code);
}

function readResponse(raw: Json | undefined, status: number, notes: string[]): ResponsePart {
  const cookieCount = asList(member(raw, 'cookies')).length;
  const headers = splitSetCookies(
    readNameValues(member(raw, 'headers'), 'response headers', notes),
    cookieCount,
    notes,
  );
  const content = member(raw, 'content');
  const text = asText(member(content, 'text'));
  const recordedType = asFilledText(member(content, 'mimeType'));
  const mimeType =
    recordedType === undefined || recordedType === 'x-unknown' ? findHeader(headers, 'content-type') : recordedType;
  return {
    status,
    statusText: asText(member(raw, 'statusText')) ?? '',
    protocol: readProtocol(asFilledText(member(raw, 'httpVersion'))),
    headers,
    redirectUrl: asFilledText(member(raw, 'redirectURL')),
    mimeType,
    body: text === undefined ? undefined : readBodyText(text, raw, { mimeType, headers }, notes),
  };
}

interface Sizes {
  readonly transferBytes: number | undefined;
  readonly headersBytes: number | undefined;
  readonly wireBodyBytes: number | undefined;
  readonly wireBytes: number | undefined;
  readonly bodyBytes: number | undefined;
}

/** The bytes that crossed: a kept copy's headers and body were counted by its recorder when they came, or not at all. */
const crossingBytes = ({ wireBytes }: Sizes, source: Source): number | undefined =>
  isFromCopy(source) ? 0 : wireBytes;

/** Whether the headers of a response promise a body (RFC 9110 8.6, 6.4.1). */
function promisesBody(entry: Json, outcome: Outcome): boolean {
  if (outcome.type === 'unanswered' || member(member(entry, 'request'), 'method') === 'HEAD') return false;
  const { status, headers } = outcome.response;
  return status !== 204 && status !== 304 && Number(findHeader(headers, 'content-length') ?? 0) > 0;
}

/** Wire and body bytes of a response: `_transferSize`, else headers and body, else body, else unknown. */
function readSizes(entry: Json, outcome: Outcome): Sizes {
  const raw = member(entry, 'response');
  const transferBytes = asAmount(member(raw, '_transferSize') ?? member(entry, '_transferSize'));
  const headersBytes = asAmount(member(raw, 'headersSize'));
  const wireBodyBytes = asAmount(member(raw, 'bodySize'));
  const summed =
    headersBytes === undefined || wireBodyBytes === undefined ? wireBodyBytes : headersBytes + wireBodyBytes;
  const content = member(raw, 'content');
  const size = asAmount(member(content, 'size'));
  const text = outcome.type === 'unanswered' ? undefined : measureText(outcome.response.body);
  // Recorders that had no body at hand write 0, though one was sent; some write it beside the very body.
  const isUnrecorded = size === 0 && (text ?? 0) === 0 && promisesBody(entry, outcome);
  const bodyBytes = size === 0 ? (text ?? 0) : (size ?? text);
  return {
    transferBytes,
    headersBytes,
    wireBodyBytes,
    wireBytes: transferBytes ?? summed,
    bodyBytes: isUnrecorded ? undefined : bodyBytes,
  };
}

/** Times after this are ms since 1970, before it s since 1970: no recording is older than 2001 in ms. */
const MILLISECONDS_FROM = 1e11;

function readMessages(entry: Json): StreamMessage[] {
  const sockets = asList(member(entry, '_webSocketMessages')).map((raw): StreamMessage => {
    const sent = asText(member(raw, 'type')) === 'send';
    return {
      direction: sent ? 'sent' : 'received',
      at: messageTime(raw),
      opcode: asNumber(member(raw, 'opcode')),
      data: asText(member(raw, 'data')) ?? '',
    };
  });
  const events = asList(member(entry, '_eventSourceMessages')).map(
    (raw): StreamMessage => ({
      direction: 'received',
      at: messageTime(raw),
      opcode: undefined,
      data: asText(member(raw, 'data')) ?? '',
    }),
  );
  return [...sockets, ...events];
}

function messageTime(raw: Json): StreamMessage['at'] {
  const time = asAmount(member(raw, 'time'));
  if (time === undefined) return undefined;
  return epochMs(time > MILLISECONDS_FROM ? time : time * 1000);
}
