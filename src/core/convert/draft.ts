import { groupBy } from '../collections';
import {
  boundaryOf,
  bytesFromText,
  joinBytes,
  type PayloadContent,
  readMultipart,
  readPayloadContent,
  textFromBytes,
} from '../content';
import { type Exchange, findHeader, findResponse, type NameValue, sentPayloadBytes } from '../model';
import { defaultFor, type HeaderContext, type HeaderRole, headerRole, type Preset } from './header-policy';
import { takeUserinfo } from './userinfo';

/** A header of a draft: kept or left out, with the role and the reason that decided it. */
export interface DraftHeader extends NameValue {
  readonly role: HeaderRole;
  readonly kept: boolean;
  readonly reason: string;
}

/** A field or a file of a multipart form (RFC 7578). */
export interface DraftPart {
  readonly name: string;
  readonly fileName: string | undefined;
  readonly contentType: string | undefined;
  /** Absent where the content is not in the capture: a file of that name has to stand beside the code. */
  readonly bytes: Uint8Array | undefined;
  /** Its content is in a file of its name beside the code, too: the code reads it from there where its client can. */
  readonly isBeside?: true;
}

export type DraftPayload =
  | { readonly type: 'none' }
  /** The request had one, but the capture does not hold it. */
  | { readonly type: 'unrecorded' }
  | { readonly type: 'text'; readonly text: string }
  /** `beside` names a file beside the code that holds them, too. */
  | { readonly type: 'bytes'; readonly bytes: Uint8Array; readonly beside?: string }
  | { readonly type: 'parts'; readonly parts: readonly DraftPart[]; readonly boundary: string }
  /** Read from a file beside the code. */
  | { readonly type: 'file'; readonly path: string };

/** A value that stands in a draft as `‹name›`. */
export interface Variable {
  readonly name: string;
  readonly value: string;
  /** Secrets are read from the environment in code, and never written down there. */
  readonly isSecret: boolean;
}

/** An editable copy of a request: what to send, and what was left out of it. */
export interface Draft {
  readonly method: string;
  /** Absolute address without fragment, as it is to be sent. */
  readonly url: string;
  readonly headers: readonly DraftHeader[];
  readonly payload: DraftPayload;
  readonly variables: readonly Variable[];
  /** The request asked for a compressed answer, so a target may turn on its own decoding. */
  readonly wantsCompressed: boolean;
  /** What the captured response was, so that code prints it as that; "none" where it has no body by its method or status. */
  readonly answer: 'json' | 'text' | 'binary' | 'none';
  /** How long the captured answer took; absent where that is not known. */
  readonly took?: DraftTimes;
  /** What the draft could not take over from the capture. */
  readonly notes: readonly string[];
}

/** How long an answer took to begin, and to be there as a whole, in ms. */
export interface DraftTimes {
  readonly waitMs: number;
  readonly wholeMs: number;
}

/** A draft that asks for an address and nothing else. */
export const EMPTY_DRAFT: Draft = {
  method: 'GET',
  url: '',
  headers: [],
  payload: { type: 'none' },
  variables: [],
  wantsCompressed: true,
  answer: 'text',
  notes: [],
};

/** The draft of a captured request under a preset: "faithful" keeps the browser's colour, "lean" leaves it out. */
export function draftFromExchange(exchange: Exchange, preset: Preset): Draft {
  const { request } = exchange;
  const { url, authorization } = takeUserinfo(request.url.split('#', 1)[0] ?? '');
  const contentType = findHeader(request.headers, 'content-type') ?? request.payload?.mimeType;
  const payload = recordedPayload(exchange, contentType);
  const status = findResponse(exchange)?.status;
  return {
    method: request.method,
    url,
    headers: draftHeaders(withStandIns(request, authorization), { url, method: request.method, status }, preset),
    payload,
    variables: [],
    wantsCompressed: findHeader(request.headers, 'accept-encoding') !== undefined,
    answer: hasNoBody(request.method, status) ? 'none' : answerOf(findResponse(exchange)?.mimeType),
    ...timesOf(exchange),
    notes: notesOf(exchange, payload),
  };
}

/** What a client's own time limit counts: not the wait for a connection in the browser. */
function timesOf({ phases, timeMs }: Exchange): Pick<Draft, 'took'> {
  const { waitMs, blockedMs = 0 } = phases;
  return waitMs === undefined || timeMs === undefined ? {} : { took: { waitMs, wholeMs: timeMs - blockedMs } };
}

/** Headers that were sent and stand elsewhere in the capture: cookies in HAR's own list, credentials in the URL (RFC 7617 2). */
function withStandIns(
  { headers, cookies = [] }: Exchange['request'],
  authorization: string | undefined,
): readonly NameValue[] {
  const has = (name: string): boolean => findHeader(headers, name) !== undefined;
  return [
    ...headers,
    ...(cookies.length === 0 || has('cookie')
      ? []
      : [{ name: 'Cookie', value: cookies.map(({ name, value }) => `${name}=${value}`).join('; ') }]),
    ...(authorization === undefined || has('authorization') ? [] : [{ name: 'Authorization', value: authorization }]),
  ];
}

/** Responses that have no body whatever their headers say (RFC 9110 6.4.1). */
const hasNoBody = (method: string, status: number | undefined): boolean =>
  method.toUpperCase() === 'HEAD' || status === 204 || status === 205 || status === 304;

/** The payload as it was recorded. One that was sent and not recorded is told from none; of a form the file's place is kept. */
function recordedPayload({ request }: Exchange, contentType: string | undefined): DraftPayload {
  const recorded: PayloadContent | { readonly type: 'none' } =
    request.payload === undefined ? { type: 'none' } : readPayloadContent(request.payload, request.bodyBytes);
  const isEmpty = recorded.type === 'none' || (recorded.type === 'bytes' && recorded.bytes.length === 0);
  if (recorded.type !== 'unrecorded' && !(isEmpty && sentPayloadBytes(request) !== 0))
    return payloadOf(recorded, contentType);
  const boundary = /^multipart\/form-data/i.test(contentType ?? '') ? boundaryOf(contentType) : undefined;
  if (boundary === undefined) return { type: 'unrecorded' };
  const place = { name: 'file', fileName: 'file', contentType: undefined, bytes: undefined };
  return { type: 'parts', parts: [place], boundary };
}

function notesOf({ request }: Exchange, payload: DraftPayload): string[] {
  const sent = sentPayloadBytes(request);
  const sentence = `The request sent ${sent} bytes of payload that the capture does not contain`;
  if (payload.type === 'unrecorded') return [`${sentence}: it goes out without.`];
  const hasPlace = payload.type === 'parts' && payload.parts.length === 1 && payload.parts[0]?.bytes === undefined;
  return hasPlace && request.payload === undefined
    ? [`${sentence}: a file stands in for the form; give its field's name and file.`]
    : [];
}

/** Headers with what decides about each under a preset. */
export function draftHeaders(headers: readonly NameValue[], context: HeaderContext, preset: Preset): DraftHeader[] {
  return joinCookies(headers).map((header): DraftHeader => {
    const role = headerRole(header, context);
    return { name: header.name, value: header.value, role, ...defaultFor(role, preset) };
  });
}

/** What was left out of a draft for a reason of ours, each reason once; what the client computes is nothing to tell. */
export function tellLeftOut(draft: Draft): string[] {
  const byReason = groupBy(
    draft.headers.filter(({ kept, role }) => !kept && role !== 'computed'),
    ({ reason }) => reason,
  );
  return [...byReason].map(([reason, headers]) => {
    const names = headers.map(({ name }) => name.toLowerCase());
    return `Left out: ${names.join(', ')} (${reason}).`;
  });
}

/** The boundary of a form that brings none. */
export const FALLBACK_BOUNDARY = 'part-of-the-form';

function payloadOf(
  recorded: PayloadContent | { readonly type: 'none' },
  contentType: string | undefined,
): DraftPayload {
  switch (recorded.type) {
    case 'none':
    case 'unrecorded':
      return recorded;
    case 'parts': {
      const parts = recorded.parts.map(({ name, value, fileName, contentType: type }) => ({
        name,
        fileName,
        contentType: type,
        bytes: fileName === undefined || value !== '' ? bytesFromText(value) : undefined,
      }));
      return { type: 'parts', parts, boundary: boundaryOf(contentType) ?? FALLBACK_BOUNDARY };
    }
    case 'bytes':
      return payloadOfBytes(recorded.bytes, contentType);
    default:
      return recorded satisfies never;
  }
}

/** A payload's bytes as what they are: the parts of a form, text, or bytes. */
export function payloadOfBytes(bytes: Uint8Array, contentType: string | undefined): DraftPayload {
  const boundary = /^multipart\/form-data/i.test(contentType ?? '') ? boundaryOf(contentType) : undefined;
  if (boundary !== undefined) {
    const parts = readMultipart(bytes, boundary);
    // Parts that are not the fields of a form, or what more a body holds, would not come back.
    const isForm = parts.every(({ name }) => name !== undefined);
    const fields = parts.map(({ name = '', ...rest }) => ({ ...rest, name }));
    if (isForm && sameBytes(encodeParts(fields, boundary), bytes)) return { type: 'parts', parts: fields, boundary };
  }
  const text = textFromBytes(bytes);
  return text === undefined ? { type: 'bytes', bytes } : { type: 'text', text };
}

const sameBytes = (a: Uint8Array, b: Uint8Array): boolean =>
  a.length === b.length && a.every((byte, at) => byte === b[at]);

/** A form's parts as one body, the way browsers write it (RFC 7578; names as WHATWG HTML 4.10.21.8 escapes them). */
export function encodeParts(parts: readonly DraftPart[], boundary: string): Uint8Array {
  const chunks: Uint8Array[] = [];
  for (const { name, fileName, contentType, bytes = new Uint8Array() } of parts) {
    const file = fileName === undefined ? '' : `; filename="${escapeName(fileName)}"`;
    const type = contentType === undefined ? '' : `Content-Type: ${contentType}\r\n`;
    const head = `--${boundary}\r\nContent-Disposition: form-data; name="${escapeName(name)}"${file}\r\n${type}\r\n`;
    chunks.push(bytesFromText(head), bytes, bytesFromText('\r\n'));
  }
  chunks.push(bytesFromText(`--${boundary}--\r\n`));
  return joinBytes(chunks);
}

/** A payload's bytes; undefined where there is none, or where only a file holds it. */
export function payloadBytes(payload: DraftPayload): Uint8Array | undefined {
  switch (payload.type) {
    case 'none':
    case 'unrecorded':
    case 'file':
      return undefined;
    case 'text':
      return bytesFromText(payload.text);
    case 'bytes':
      return payload.bytes;
    case 'parts':
      return encodeParts(payload.parts, payload.boundary);
    default:
      return payload satisfies never;
  }
}

const escapeName = (name: string): string =>
  name.replace(/[\r\n"]/g, (character) => ({ '\r': '%0D', '\n': '%0A', '"': '%22' })[character] ?? '');

function answerOf(mimeType: string | undefined): Draft['answer'] {
  const type = mimeType ?? '';
  if (/[/+]json\b/i.test(type)) return 'json';
  return /^(image|audio|video|font)\/|octet-stream|\/(zip|gzip|pdf|wasm)/i.test(type) ? 'binary' : 'text';
}

/** HTTP/2 may split Cookie into crumbs; outside of it they are one header, joined by "; " (RFC 9113 8.2.3). */
function joinCookies(headers: readonly NameValue[]): readonly NameValue[] {
  const cookies = headers.filter((header) => header.name.toLowerCase() === 'cookie');
  if (cookies.length < 2) return headers;
  const [first] = cookies;
  const value = cookies.map((cookie) => cookie.value).join('; ');
  return headers.flatMap((header) => {
    if (header.name.toLowerCase() !== 'cookie') return [header];
    return header === first ? [{ name: header.name, value }] : [];
  });
}
