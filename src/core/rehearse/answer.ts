import { bodyAsSent, decodeBody, type Inflate } from '../content';
import { readHttpDate } from '../http';
import { type Exchange, type FailReason, findHeader, findLines, findResponse, type NameValue } from '../model';
import type { Asked } from './asked';
import { capturedPart, rangeOf } from './ranges';

/** What is given to a request. */
export type Given =
  | {
      readonly type: 'response';
      readonly status: number;
      readonly statusText: string;
      readonly headers: readonly NameValue[];
      /** As the page received it, before it is packed; what of it is sent depends on the method. */
      readonly body: Uint8Array;
      /** What the body is, by its header, else as the recorder says. */
      readonly mimeType: string | undefined;
      /** How it was packed in the capture. */
      readonly coding: string | undefined;
      /**
       * The length that HEAD is told where the body is not there to be measured, in bytes as packed in the capture; absent
       * where it is.
       */
      readonly headBytes?: number | 'unknown';
      /** It breaks off behind its body, as it did in the capture. */
      readonly breaksOff: boolean;
      /** It stays open behind its body, as an event stream does. */
      readonly staysOpen: boolean;
      /** What of it is not as captured, in a few words. */
      readonly remarks: readonly string[];
    }
  /** No response: the connection is reset, or nothing comes for as long as is waited. */
  | { readonly type: 'none'; readonly how: 'reset' | 'silence'; readonly remarks: readonly string[] };

/** What belongs to the connection, and what the server reckons for itself (RFC 9110 7.6.1, 8.6; RFC 9112 6). */
const OF_CONNECTION =
  /^(?:connection|keep-alive|proxy-connection|transfer-encoding|te|trailer|upgrade|content-length|content-encoding)$/i;
/** A header's name (RFC 9110 5.1, 5.6.2). */
const TOKEN = /^[!#$%&'*+.^_`|~0-9A-Za-z-]+$/;
/** Reasons that mean that somebody waited for what never came. */
const SILENT: ReadonlySet<FailReason> = new Set(['cancelled', 'timed-out', 'name-timed-out']);
export const NOT_RECORDED = 'the capture does not hold the body';

/** What a captured exchange gives to a request that it fits. */
export function giveCaptured(asked: Asked, exchange: Exchange, inflate: Inflate): Given {
  const { outcome } = exchange;
  const response = findResponse(exchange);
  if (outcome.type === 'unanswered' || response === undefined) {
    const reason = outcome.type === 'answered' ? 'unknown' : outcome.reason;
    return { type: 'none', how: SILENT.has(reason) ? 'silence' : 'reset', remarks: ['no response was captured'] };
  }
  if (!(response.status >= 200 && response.status <= 999))
    return { type: 'none', how: 'reset', remarks: [`status ${response.status} cannot be given`] };
  const isWhole = decodeBody(response, inflate) !== undefined;
  const body = bodyAsSent(response, inflate) ?? new Uint8Array();
  const { headers, remarks } = headersOf(response.headers);
  // A redirect has its URL from HAR's own field where the headers are not there.
  const isStream = exchange.kind.value === 'stream';
  const location = response.redirectUrl;
  const lacksLocation = location !== undefined && location !== '' && findHeader(headers, 'location') === undefined;
  const given: Given = {
    type: 'response',
    status: response.status,
    statusText: response.statusText,
    headers: lacksLocation && response.status < 400 ? [...headers, { name: 'Location', value: location }] : headers,
    body,
    mimeType: findHeader(response.headers, 'content-type') ?? response.mimeType,
    coding: findHeader(response.headers, 'content-encoding')?.trim().toLowerCase(),
    // An event stream that was cut off is one whose reader left.
    breaksOff: outcome.type === 'cut' && !isStream,
    staysOpen: outcome.type === 'cut' && isStream,
    ...(isWhole && exchange.request.method !== 'HEAD' ? {} : { headBytes: lengthTold(response.headers) }),
    remarks: isWhole || !mayHaveBody(asked.method, response.status) ? remarks : [...remarks, NOT_RECORDED],
  };
  return asAsked(asked, given, isWhole);
}

/** The Content-Length of a response whose body is not held (RFC 9110 8.6). */
export function lengthTold(headers: readonly NameValue[]): number | 'unknown' {
  const told = findHeader(headers, 'content-length')?.trim() ?? '';
  return /^\d{1,15}$/.test(told) ? Number(told) : 'unknown';
}

/** HEAD, and statuses that never have a body (RFC 9110 6.4.1). */
export const mayHaveBody = (method: string, status: number): boolean =>
  method.toUpperCase() !== 'HEAD' && status !== 204 && status !== 205 && status !== 304;

function headersOf(captured: readonly NameValue[]): { headers: NameValue[]; remarks: string[] } {
  const remarks: string[] = [];
  const names = [...new Set(captured.map(({ name }) => name))];
  const headers = captured.flatMap(({ name, value }) => {
    if (name.startsWith(':') || OF_CONNECTION.test(name)) return [];
    if (!TOKEN.test(name)) {
      remarks.push(`a header whose name cannot be sent is left out`);
      return [];
    }
    // Recorders join several lines of one header by line breaks.
    const lines = value.includes('\n') && names.includes(name) ? findLines([{ name, value }], name) : [value];
    return lines.map((line) => ({ name, value: line.trim() }));
  });
  return { headers, remarks };
}

type Response = Extract<Given, { type: 'response' }>;

/** The captured response as the conditions and the range of a request want it (RFC 9110 13.2.2, 14.2). */
function asAsked(asked: Asked, given: Response, isWhole: boolean): Response {
  const isRead = /^(?:GET|HEAD)$/i.test(asked.method);
  if (given.status === 304)
    return isRead && !isConditional(asked) && isWhole && given.body.length > 0 ? full(given) : given;
  if (!isRead) return given;
  if (given.status === 200 && isKnown(asked, given)) return unchanged(given);
  if (given.status === 206) return ofPart(asked, given);
  if (given.status === 200 && isWhole && given.body.length > 0) return ranged(asked, given);
  return given;
}

const isConditional = ({ headers }: Asked): boolean =>
  findHeader(headers, 'if-none-match') !== undefined || findHeader(headers, 'if-modified-since') !== undefined;

/** A 304 whose body the recorder had from the cache is what a client that has none of its own wants. */
const full = (given: Response): Response => ({
  ...given,
  status: 200,
  statusText: 'OK',
  remarks: [...given.remarks, 'captured as 304; given with the body that the recorder had'],
});

/** Whether the client has it already: by entity tags, compared weakly, or by its date (RFC 9110 13.1.2, 13.1.3, 8.8.3.2). */
function isKnown({ headers: asked }: Asked, { headers }: Response): boolean {
  const tags = findHeader(asked, 'if-none-match');
  const tag = findHeader(headers, 'etag');
  const weak = (one: string): string => one.trim().replace(/^W\//, '');
  if (tags !== undefined) {
    if (tags.trim() === '*') return true;
    return tag !== undefined && (tags.match(/(?:W\/)?"[^"]*"/g) ?? [tags]).some((one) => weak(one) === weak(tag));
  }
  const [since, changed] = [findHeader(asked, 'if-modified-since'), findHeader(headers, 'last-modified')].map((text) =>
    text === undefined ? undefined : readHttpDate(text),
  );
  return since !== undefined && changed !== undefined && changed <= since;
}

/** A 304 has no fields of the content (RFC 9110 15.4.5). */
const unchanged = (given: Response): Response => ({
  ...given,
  status: 304,
  statusText: 'Not Modified',
  headers: given.headers.filter(({ name }) => !/^content-(?!location|security-policy)/i.test(name)),
  body: new Uint8Array(),
  coding: undefined,
});

function ranged(asked: Asked, given: Response): Response {
  const { headers, body } = given;
  if (/\bnone\b/i.test(findHeader(headers, 'accept-ranges') ?? '') || !/^GET$/i.test(asked.method)) return given;
  const range = rangeOf(findHeader(asked.headers, 'range'), body.length);
  if (range === undefined || !isStill(asked, headers)) return given;
  const plain = headers.filter(({ name }) => !/^content-range$/i.test(name));
  const part = { coding: undefined, remarks: [...given.remarks, 'a part of what was captured as a whole'] };
  if (range === 'none') {
    const whole = { name: 'Content-Range', value: `bytes */${body.length}` };
    return {
      ...given,
      ...part,
      status: 416,
      statusText: 'Range Not Satisfiable',
      headers: [...plain, whole],
      body: new Uint8Array(),
    };
  }
  return {
    ...given,
    ...part,
    status: 206,
    statusText: 'Partial Content',
    headers: [...plain, { name: 'Content-Range', value: `bytes ${range.from}-${range.to}/${body.length}` }],
    body: body.subarray(range.from, range.to + 1),
  };
}

/** If-Range (RFC 9110 13.1.5): a strong tag or a date that is the very same. */
function isStill({ headers: asked }: Asked, headers: readonly NameValue[]): boolean {
  const condition = findHeader(asked, 'if-range')?.trim();
  if (condition === undefined) return true;
  if (condition.startsWith('W/')) return false;
  return (
    condition === findHeader(headers, 'etag')?.trim() || condition === findHeader(headers, 'last-modified')?.trim()
  );
}

/**
 * Of a captured part what begins as asked, to its end at most (RFC 9110 15.3.7: the client asks for the rest); the whole where
 * it is the whole and no part is asked for; else the part as it is, and that it is another.
 */
function ofPart(asked: Asked, given: Response): Response {
  const part = capturedPart(given.headers);
  if (part === undefined || given.body.length !== part.to - part.from + 1) return given;
  const asksPart = findHeader(asked.headers, 'range');
  const headers = given.headers.filter(({ name }) => !/^content-range$/i.test(name));
  const isWhole = part.from === 0 && given.body.length === part.length;
  const noting = (remark: string): readonly string[] => [...given.remarks, remark];
  if (asksPart === undefined && isWhole)
    return {
      ...given,
      status: 200,
      statusText: 'OK',
      headers,
      coding: undefined,
      remarks: noting('captured as a part'),
    };
  if (asksPart === undefined)
    return { ...given, remarks: noting('captured as a part, though the whole was asked for') };
  const range = rangeOf(asksPart, part.length);
  if (typeof range !== 'object' || range.from < part.from || range.from > part.to)
    return { ...given, remarks: noting('another part than was asked for') };
  const to = Math.min(range.to, part.to);
  if (range.from === part.from && to === part.to) return given;
  return {
    ...given,
    headers: [...headers, { name: 'Content-Range', value: `bytes ${range.from}-${to}/${part.length}` }],
    body: given.body.subarray(range.from - part.from, to - part.from + 1),
    coding: undefined,
    remarks: noting('captured as a part'),
  };
}

/** Whether a request is a preflight (Fetch 4.8). */
export const isPreflight = ({ method, headers }: Pick<Asked, 'method' | 'headers'>): boolean =>
  /^OPTIONS$/i.test(method) && findHeader(headers, 'access-control-request-method') !== undefined;

/** What a preflight that was not captured is given: leave for what it asks (Fetch 3.3.3). */
export function allowPreflight({ headers }: Pick<Asked, 'headers'>): Response {
  const asked = (name: string): string | undefined => findHeader(headers, name);
  const lines: (NameValue | undefined)[] = [
    line('Access-Control-Allow-Origin', asked('origin') ?? '*'),
    line('Access-Control-Allow-Methods', asked('access-control-request-method')),
    line('Access-Control-Allow-Headers', asked('access-control-request-headers')),
    line('Access-Control-Allow-Credentials', 'true'),
    line('Vary', 'Origin'),
  ];
  return {
    type: 'response',
    status: 204,
    statusText: 'No Content',
    headers: lines.filter((one) => one !== undefined),
    body: new Uint8Array(),
    mimeType: undefined,
    coding: undefined,
    breaksOff: false,
    staysOpen: false,
    remarks: ['a preflight that was not captured is allowed'],
  };
}

const line = (name: string, value: string | undefined): NameValue | undefined =>
  value === undefined ? undefined : { name, value };
