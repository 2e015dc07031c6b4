import type { EpochMs, ExchangeIndex, PageId } from './brand';
import type { FailReason, Failure } from './failure';
import type { Kind, Source } from './kinds';
import type { Phases } from './phases';

export interface NameValue {
  readonly name: string;
  readonly value: string;
}

/** Recorded text of a body: as the recorder wrote it, base64 of the bytes, or the bytes one to a character. */
export type RecordedText =
  | { readonly encoding: 'text'; readonly text: string }
  | { readonly encoding: 'latin1'; readonly text: string }
  | { readonly encoding: 'base64'; readonly text: string };

/** What a request carried. Both members may be there: recorders write the raw text, the parsed parameters, or both. */
export interface Payload {
  readonly mimeType: string | undefined;
  readonly recorded: RecordedText | undefined;
  readonly params: readonly PayloadParam[] | undefined;
}

export interface PayloadParam extends NameValue {
  readonly fileName: string | undefined;
  readonly contentType: string | undefined;
}

export interface RequestPart {
  readonly method: string;
  readonly url: string;
  readonly protocol: string | undefined;
  readonly headers: readonly NameValue[];
  /** HAR's own list of the cookies that were sent; only where no Cookie header was recorded. */
  readonly cookies?: readonly NameValue[];
  readonly query: readonly NameValue[];
  readonly payload: Payload | undefined;
  readonly headersBytes: number | undefined;
  /** Bytes of the payload on the wire. */
  readonly bodyBytes: number | undefined;
}

export interface ResponsePart {
  readonly status: number;
  readonly statusText: string;
  readonly protocol: string | undefined;
  readonly headers: readonly NameValue[];
  readonly redirectUrl: string | undefined;
  readonly mimeType: string | undefined;
  readonly body: RecordedText | undefined;
}

/**
 * How the exchange ended. "answered": a whole response. "cut": the status arrived, then the transfer broke.
 * "unanswered": no status ever arrived, for the reason given where the recorder knew one.
 */
export type Outcome =
  | { readonly type: 'answered'; readonly response: ResponsePart }
  | { readonly type: 'cut'; readonly response: ResponsePart; readonly reason: FailReason; readonly recorded: string }
  | { readonly type: 'unanswered'; readonly reason: FailReason; readonly recorded: string | undefined };

/** A value together with what it was concluded from, in a few words fit for the screen. */
export interface Judged<T> {
  readonly value: T;
  readonly evidence: string;
}

/** One socket message or server-sent event. */
export interface StreamMessage {
  readonly direction: 'sent' | 'received';
  readonly at: EpochMs | undefined;
  readonly opcode: number | undefined;
  readonly data: string;
}

/** One request with its response: an entry of the capture, read and classified. */
export interface Exchange {
  readonly index: ExchangeIndex;
  readonly pageId: PageId | undefined;
  readonly startedAt: EpochMs | undefined;
  /** Length from its start to its end: the sum of the phases, else the recorder's own `time`. In ms, >= 0. */
  readonly timeMs: number | undefined;
  readonly phases: Phases;
  readonly request: RequestPart;
  readonly outcome: Outcome;
  /** Response bytes that crossed the network, headers included where known; what really crossed, so 0 from cache. */
  readonly wireBytes: number | undefined;
  /** Response bytes after decoding, as the page received them. */
  readonly bodyBytes: number | undefined;
  readonly kind: Judged<Kind>;
  readonly source: Judged<Source>;
  readonly serverAddress: string | undefined;
  readonly connectionId: string | undefined;
  readonly priority: string | undefined;
  /** Address of what asked for it, by the recorder's own word: a document, or the script that stood on top. */
  readonly initiatorUrl: string | undefined;
  /** What kind of thing asked for it, by the recorder's word, in small letters: "parser", "script" and the like. */
  readonly initiatorType: string | undefined;
  /** A service worker made it, by the recorder's word. */
  readonly isByServiceWorker: boolean;
  /** A document that the window as a whole went to, not one in a frame (sec-fetch-dest: document). */
  readonly isNavigation: boolean;
  /** The frame that asked, where the recorder names it. */
  readonly frame: string | undefined;
  readonly messages: readonly StreamMessage[];
  /** What was odd in the entry and how it was read. */
  readonly notes: readonly string[];
}

/** The response, also where it was cut off; absent when none arrived. */
export const findResponse = (exchange: Exchange): ResponsePart | undefined =>
  exchange.outcome.type === 'unanswered' ? undefined : exchange.outcome.response;

/** The status code; unknown when no answer arrived. */
export const findStatus = (exchange: Exchange): number | undefined => findResponse(exchange)?.status;

/** The first value of a header, its name compared without case (RFC 9110 5.1). */
export function findHeader(headers: readonly NameValue[], name: string): string | undefined {
  const wanted = name.toLowerCase();
  for (const { name: own, value } of headers) {
    // Lengths differ for nearly all: an import asks this millions of times.
    if (own.length === wanted.length && own.toLowerCase() === wanted) return value;
  }
  return undefined;
}

/** All values of a header, those that a recorder joined by line breaks apart. */
export function findLines(headers: readonly NameValue[], name: string): string[] {
  const wanted = name.toLowerCase();
  const lines: string[] = [];
  for (const { name: own, value } of headers) {
    if (own.length !== wanted.length || own.toLowerCase() !== wanted) continue;
    for (const line of value.split('\n')) lines.push(line);
  }
  return lines;
}

/** Those whose lines count as one list (RFC 9110 5.3) and that are read here; of all others the first line counts. */
const LISTS: ReadonlySet<string> = new Set([
  'access-control-allow-headers',
  'access-control-allow-methods',
  'access-control-request-headers',
  'cache-control',
  'cache-status',
  'pragma',
  'server-timing',
  'vary',
]);

/** What a header says as a whole: its lines as one where its value is a list, else the first. The name in small letters. */
export function findField(headers: readonly NameValue[], name: string): string | undefined {
  if (!LISTS.has(name)) return findHeader(headers, name);
  const lines = findLines(headers, name);
  return lines.length === 0 ? undefined : lines.join(', ');
}

/**
 * How the exchange failed; absent when it did not: no answer, cut off, or a status of 400 and more (RFC 9110 15.5, 15.6);
 * not a stream that the page closed.
 */
export function findFailure({ outcome, kind }: Exchange): Failure | undefined {
  switch (outcome.type) {
    case 'unanswered':
      return { type: 'no-response', reason: outcome.reason, recorded: outcome.recorded };
    case 'cut': {
      const { reason, recorded } = outcome;
      // An event stream has no end of its own: the page that closes it has had what it wanted.
      if (kind.value === 'stream' && reason === 'cancelled') return undefined;
      return { type: 'cut-off', status: outcome.response.status, reason, recorded };
    }
    case 'answered': {
      const { status, statusText } = outcome.response;
      return status < 400 ? undefined : { type: 'status', status, statusText };
    }
    default:
      return outcome satisfies never;
  }
}

/**
 * How many bytes of payload a request sent, as far as the capture says, whether it holds them or not: by Content-Length (RFC
 * 9110 8.6), which a recorder's own count is not surer than; "some" where it only says that there were.
 */
export function sentPayloadBytes({ headers, bodyBytes, method }: RequestPart): number | 'some' {
  const length = findHeader(headers, 'content-length');
  const declared = length === undefined ? 0 : Number(length);
  if (Number.isFinite(declared) && declared > 0) return declared;
  if ((bodyBytes ?? 0) > 0) return bodyBytes ?? 'some';
  const isMultipart = /^multipart\/form-data/i.test(findHeader(headers, 'content-type') ?? '');
  // A form of parts has at least its boundary.
  if (isMultipart && length === undefined && method.toUpperCase() === 'POST') return 'some';
  return /chunked/i.test(findHeader(headers, 'transfer-encoding') ?? '') ? 'some' : 0;
}
