import {
  type Exchange,
  epochMs,
  exchangeIndex,
  findHeader,
  type NameValue,
  type Outcome,
  type Payload,
  pageId,
  type RecordedText,
  type RequestPart,
  type ResponsePart,
  type StreamMessage,
} from '../model';
import { readInstant } from './instant';
import { classifyKind } from './kind';
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
  const clock = readClock(entry, isPlainHttp);
  const responseRaw = member(entry, 'response');
  const sizes = readSizes(responseRaw);
  const mimeType = outcome.type === 'unanswered' ? undefined : outcome.response.mimeType;
  const page = asFilledText(member(entry, 'pageref'));
  const connection = member(entry, '_connectionId') ?? member(entry, 'connection');
  return {
    index: exchangeIndex(place),
    pageId: page === undefined ? undefined : pageId(page),
    startedAt: readInstant(asText(member(entry, 'startedDateTime')))?.at,
    timeMs: clock.timeMs,
    phases: clock.phases,
    request,
    outcome,
    wireBytes: sizes.wireBytes,
    bodyBytes: sizes.bodyBytes,
    kind: classifyKind({
      resourceType: asFilledText(member(entry, '_resourceType')),
      method: request.method,
      url: request.url,
      requestHeaders: request.headers,
      mimeType,
    }),
    source: classifySource({
      url: request.url,
      outcome,
      requestHeaders: request.headers,
      fromWorker: isTrue(member(entry, '_fetchedViaServiceWorker') ?? member(responseRaw, '_fetchedViaServiceWorker')),
      fromCache: asFilledText(member(entry, '_fromCache') ?? member(responseRaw, '_fromCache')),
      wasPushed: isTrue(member(entry, '_was_pushed')),
      fromPrefetch: isTrue(member(entry, '_fromPrefetchCache') ?? member(responseRaw, '_fromPrefetchCache')),
      transferBytes: sizes.transferBytes,
      headersBytes: sizes.headersBytes,
      wireBodyBytes: sizes.wireBodyBytes,
      bodyBytes: sizes.bodyBytes,
    }),
    serverAddress: asFilledText(member(entry, 'serverIPAddress')),
    connectionId: typeof connection === 'number' ? String(connection) : asFilledText(connection),
    priority: asFilledText(member(entry, '_priority')),
    initiatorUrl: readInitiatorUrl(member(entry, '_initiator')),
    isNavigation: isNavigation(entry, request.headers),
    frame: asFilledText(member(entry, '_frameref')),
    messages: readMessages(entry),
    notes: [...notes, ...clock.notes],
  };
}

/** `_initiator`: an address, or an object with one or with the script's call frames, the innermost first. */
function readInitiatorUrl(raw: Json | undefined): string | undefined {
  if (typeof raw === 'string') return /^[a-z][a-z0-9+.-]*:\/\//i.test(raw) ? raw : undefined;
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

/** By the recorder's own word, else by fetch metadata; old recorders have neither, and their pages tell. */
function isNavigation(entry: Json, headers: readonly NameValue[]): boolean {
  if (isTrue(member(entry, '_isNavigationRequest'))) return true;
  const mode = findHeader(headers, 'sec-fetch-mode')?.toLowerCase();
  const destination = findHeader(headers, 'sec-fetch-dest')?.toLowerCase();
  return mode === 'navigate' && (destination === undefined || destination === 'document');
}

/** True for the several ways recorders write a yes. */
const isTrue = (value: Json | undefined): boolean => value === true || value === 1 || value === '1' || value === 'true';

function readNameValues(value: Json | undefined): NameValue[] {
  const pairs: NameValue[] = [];
  for (const item of asList(value)) {
    const name = asText(member(item, 'name'));
    if (name === undefined) continue;
    const content = member(item, 'value');
    pairs.push({ name, value: typeof content === 'string' ? content : content == null ? '' : String(content) });
  }
  return pairs;
}

function readRequest(raw: Json | undefined, notes: string[]): RequestPart {
  if (asFilledText(member(raw, 'method')) === undefined) notes.push('it names no method; GET was taken');
  if (asFilledText(member(raw, 'url')) === undefined) notes.push('it names no address');
  return {
    method: asFilledText(member(raw, 'method')) ?? 'GET',
    url: asText(member(raw, 'url')) ?? '',
    protocol: asFilledText(member(raw, 'httpVersion')),
    headers: readNameValues(member(raw, 'headers')),
    query: readNameValues(member(raw, 'queryString')),
    payload: readPayload(member(raw, 'postData')),
    headersBytes: asAmount(member(raw, 'headersSize')),
    bodyBytes: asAmount(member(raw, 'bodySize')),
  };
}

/** `postData` (HAR 1.2): text and params may both, either or neither be there. */
function readPayload(raw: Json | undefined): Payload | undefined {
  if (!isObject(raw)) return undefined;
  const text = asText(member(raw, 'text'));
  const encoding = asText(member(raw, 'encoding')) ?? asText(member(raw, '_encoding'));
  const params = asList(member(raw, 'params')).flatMap((item) => {
    const name = asText(member(item, 'name'));
    if (name === undefined) return [];
    return {
      name,
      value: asText(member(item, 'value')) ?? '',
      fileName: asText(member(item, 'fileName')),
      contentType: asText(member(item, 'contentType')),
    };
  });
  return {
    mimeType: asFilledText(member(raw, 'mimeType')),
    recorded: text === undefined ? undefined : recordedText(text, encoding),
    params: params.length === 0 ? undefined : params,
  };
}

const recordedText = (text: string, encoding: string | undefined): RecordedText =>
  encoding?.toLowerCase() === 'base64' ? { encoding: 'base64', text } : { encoding: 'text', text };

/** Status 0, negative or missing: no response arrived. A status with a failure text: cut off after the headers. */
function readOutcome(entry: Json, notes: string[]): Outcome {
  const raw = member(entry, 'response');
  const reason =
    asFilledText(member(raw, '_error')) ??
    asFilledText(member(entry, '_error')) ??
    asFilledText(member(raw, '_failureText'));
  const status = asNumber(member(raw, 'status'));
  if (status === undefined || status <= 0) {
    const elsewhere = asFilledText(member(raw, 'statusText')) ?? asFilledText(member(entry, 'comment'));
    return { type: 'unanswered', reason: reason ?? elsewhere };
  }
  const response = readResponse(raw, status, notes);
  return reason === undefined ? { type: 'answered', response } : { type: 'cut', response, reason };
}

function readResponse(raw: Json | undefined, status: number, notes: string[]): ResponsePart {
  const headers = splitSetCookies(readNameValues(member(raw, 'headers')), notes);
  const content = member(raw, 'content');
  const text = asText(member(content, 'text'));
  const mimeType = asFilledText(member(content, 'mimeType'));
  return {
    status,
    statusText: asText(member(raw, 'statusText')) ?? '',
    protocol: asFilledText(member(raw, 'httpVersion')),
    headers,
    redirectUrl: asFilledText(member(raw, 'redirectURL')),
    mimeType: mimeType === undefined || mimeType === 'x-unknown' ? findHeader(headers, 'content-type') : mimeType,
    body: text === undefined ? undefined : recordedText(text, asText(member(content, 'encoding'))),
  };
}

/** Set-Cookie may not be joined into one value (RFC 9110 5.3), but some recorders join it by line feeds. */
function splitSetCookies(headers: NameValue[], notes: string[]): NameValue[] {
  const isJoined = ({ name, value }: NameValue): boolean => name.toLowerCase() === 'set-cookie' && value.includes('\n');
  if (!headers.some(isJoined)) return headers;
  notes.push('several Set-Cookie headers were joined in one');
  return headers.flatMap((header) =>
    isJoined(header) ? header.value.split('\n').map((value) => ({ name: header.name, value })) : [header],
  );
}

interface Sizes {
  readonly transferBytes: number | undefined;
  readonly headersBytes: number | undefined;
  readonly wireBodyBytes: number | undefined;
  readonly wireBytes: number | undefined;
  readonly bodyBytes: number | undefined;
}

/** Wire and body bytes of a response: `_transferSize`, else headers and body, else body, else unknown. */
function readSizes(raw: Json | undefined): Sizes {
  const transferBytes = asAmount(member(raw, '_transferSize'));
  const headersBytes = asAmount(member(raw, 'headersSize'));
  const wireBodyBytes = asAmount(member(raw, 'bodySize'));
  const summed =
    headersBytes === undefined || wireBodyBytes === undefined ? wireBodyBytes : headersBytes + wireBodyBytes;
  const content = member(raw, 'content');
  return {
    transferBytes,
    headersBytes,
    wireBodyBytes,
    wireBytes: transferBytes ?? summed,
    bodyBytes: asAmount(member(content, 'size')) ?? measureText(content),
  };
}

/** The length of the recorded text in bytes; unknown where none was recorded. */
function measureText(content: Json | undefined): number | undefined {
  const text = asText(member(content, 'text'));
  if (text === undefined) return undefined;
  return asText(member(content, 'encoding'))?.toLowerCase() === 'base64' ? base64Bytes(text) : utf8Bytes(text);
}

const base64Bytes = (text: string): number =>
  Math.floor((text.length * 3) / 4) - (text.endsWith('==') ? 2 : text.endsWith('=') ? 1 : 0);

const utf8Bytes = (text: string): number => new TextEncoder().encode(text).length;

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
