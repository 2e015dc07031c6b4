import { essence } from '../har';
import { findHeader, type RecordedText, type ResponsePart } from '../model';
import { bytesFromBase64, bytesFromLatin1, bytesFromText, joinBytes } from './bytes';
import { bearsMark, type Coding, findRemainingCoding, type Inflate } from './compression';
import { encodeText } from './encode';
import { byteOrderMark, charsetOf, encodingOf, textIn } from './encoding';

/** What a body is, coarsely, in match order: its shape says more. "absent": not recorded; "empty": recorded, and no bytes long. */
export type BodyKind = 'absent' | 'empty' | 'image' | 'json' | 'text' | 'binary';

export interface DecodedBody {
  readonly bytes: Uint8Array;
  /** The coding that the recorder had left in and that was taken off; absent for nearly all. */
  readonly unpackedFrom: string | undefined;
  /** The coding whose mark the bytes still bear: damaged, cut, or too long unpacked to be taken off. */
  readonly packedIn?: Coding;
}

/** Unpacked bodies above this are kept packed: a bound on decompression bombs. */
const UNPACKED_LIMIT_BYTES = 64 * 1024 * 1024;

/** The bytes of a recorded body as the page received them. Undefined where none was recorded. */
export function decodeBody(response: ResponsePart, inflate: Inflate): DecodedBody | undefined {
  if (response.body === undefined) return undefined;
  const bytes = recordedBytes(response.body);
  return response.body.encoding === 'text' ? { bytes, unpackedFrom: undefined } : unpackBytes(response, bytes, inflate);
}

const UTF8_MARK = Uint8Array.of(0xef, 0xbb, 0xbf);

/**
 * The bytes of a body as they were sent, coding taken off. Recorders keep text as characters: where those were written in
 * another charset, or behind a byte order mark, they are written so again, if that comes to just the length that was
 * declared. Where none was, or it is that of packed bytes, they are in the charset that whoever read them went by; JSON is
 * read as UTF-8 whatever its type says (RFC 8259 8.1). Undefined where no body was recorded.
 */
export function bodyAsSent(response: ResponsePart, inflate: Inflate): Uint8Array | undefined {
  const bytes = decodeBody(response, inflate)?.bytes;
  if (bytes === undefined || response.body?.encoding !== 'text') return bytes;
  const declared = Number(findHeader(response.headers, 'content-length') ?? Number.NaN);
  const isKnown = findHeader(response.headers, 'content-encoding') === undefined && !Number.isNaN(declared);
  if (isKnown && bytes.length === declared) return bytes;
  const charset = charsetAsSent(response, bytes);
  const written = charset === undefined ? undefined : encodeText(response.body.text, charset);
  if (!isKnown) return /[/+]json$/.test(essence(response.mimeType) ?? '') ? bytes : (written ?? bytes);
  const candidates = [written, written && joinBytes([markOf(charset), written]), joinBytes([UTF8_MARK, bytes])];
  return candidates.find((candidate) => candidate?.length === declared) ?? bytes;
}

/** The charset that a text was in: by its type, or where that says nothing by what a page says of itself. */
function charsetAsSent(response: ResponsePart, bytes: Uint8Array): string | undefined {
  const type = typeWithCharset(response);
  const encoding = charsetOf(type) ?? encodingOf(bytes, type);
  return encoding === 'utf-8' ? undefined : encoding;
}

/** The type of a body with its charset: some recorders write the type without it, and keep it in the headers alone. */
function typeWithCharset({ headers, mimeType }: ResponsePart): string | undefined {
  const sent = findHeader(headers, 'content-type');
  return charsetOf(mimeType) === undefined && charsetOf(sent) !== undefined && essence(sent) === essence(mimeType)
    ? sent
    : mimeType;
}

const markOf = (charset: string | undefined): Uint8Array =>
  /^utf-16be$/i.test(charset ?? '')
    ? Uint8Array.of(0xfe, 0xff)
    : /^utf-16/i.test(charset ?? '')
      ? Uint8Array.of(0xff, 0xfe)
      : new Uint8Array();

/** Takes off the coding that a recorder left in a body that it kept as bytes. */
export function unpackBytes(response: ResponsePart, bytes: Uint8Array, inflate: Inflate): DecodedBody {
  const coding = findRemainingCoding(findHeader(response.headers, 'content-encoding'), bytes);
  const unpacked = coding === undefined ? undefined : inflate(bytes, coding, UNPACKED_LIMIT_BYTES);
  if (unpacked !== undefined) return { bytes: unpacked, unpackedFrom: coding };
  const isPacked = coding !== undefined && bearsMark(bytes, coding);
  return { bytes, unpackedFrom: undefined, ...(isPacked ? { packedIn: coding } : {}) };
}

/** The recorded characters as bytes: text in UTF-8, base64 decoded; broken base64 as the text that it is. */
export function recordedBytes(recorded: RecordedText): Uint8Array {
  switch (recorded.encoding) {
    case 'base64':
      return bytesFromBase64(recorded.text) ?? bytesFromText(recorded.text);
    case 'latin1':
      return bytesFromLatin1(recorded.text) ?? bytesFromText(recorded.text);
    case 'text':
      return bytesFromText(recorded.text);
    default:
      return recorded satisfies never;
  }
}

/** A body as it is shown: how, its bytes, and its text for kinds that are text. */
export interface ReadBody {
  readonly kind: BodyKind;
  readonly decoded: DecodedBody | undefined;
  readonly text: string | undefined;
  /** The type whose charset the bytes have; absent where they are UTF-8 whatever the type says. */
  readonly charsetType: string | undefined;
}

/**
 * Reads a response's body for showing; "absent" without a response. Recorders store text decoded to Unicode while the
 * type keeps the old charset, so the charset counts only for what was stored as bytes.
 * @param limitBytes of a longer body only so much of its beginning is read as text
 */
export function readBody(
  response: ResponsePart | undefined,
  inflate: Inflate,
  limitBytes = Number.POSITIVE_INFINITY,
): ReadBody {
  const decoded = response === undefined ? undefined : decodeBody(response, inflate);
  const kind = decoded?.packedIn === undefined ? bodyKind(response?.mimeType, decoded?.bytes) : 'binary';
  const isText = kind === 'json' || kind === 'text';
  const charsetType =
    response === undefined || response.body?.encoding === 'text' ? undefined : typeWithCharset(response);
  const text =
    decoded !== undefined && isText ? decodeText(decoded.bytes.subarray(0, limitBytes), charsetType) : undefined;
  return { kind, decoded, text, charsetType };
}

const TEXT_TYPES =
  /^(text\/|application\/(x-)?(javascript|ecmascript|graphql|sql|x-www-form-urlencoded|x-ndjson|yaml))/;

/** Chooses how a body is shown: by its type first, by its bytes where the type says nothing. */
export function bodyKind(mimeType: string | undefined, bytes: Uint8Array | undefined): BodyKind {
  if (bytes === undefined) return 'absent';
  if (bytes.length === 0) return 'empty';
  const type = essence(mimeType);
  if (type?.startsWith('image/')) return 'image';
  if (type !== undefined && (/[/+]json$/.test(type) || type === 'text/json')) {
    // Still packed, or no JSON at all; UTF-16 has zero bytes of its own.
    return looksBinary(bytes) && !/utf-?16/i.test(mimeType ?? '') && byteOrderMark(bytes) === undefined
      ? 'binary'
      : 'json';
  }
  if (type !== undefined && (TEXT_TYPES.test(type) || /[/+]xml$/.test(type))) return 'text';
  if (looksBinary(bytes)) return 'binary';
  return /^\s*[[{]/.test(new TextDecoder().decode(bytes.subarray(0, 64))) ? 'json' : 'text';
}

/** How many bytes decide whether a body of no known type is text. */
const SNIFFED_BYTES = 1445;

/** Binary data bytes in the first 1445, as WHATWG MIME Sniffing 3 and 5.2 define them. */
function looksBinary(bytes: Uint8Array): boolean {
  return bytes
    .subarray(0, SNIFFED_BYTES)
    .some((byte) => byte <= 0x08 || byte === 0x0b || (byte >= 0x0e && byte <= 0x1a) || (byte >= 0x1c && byte <= 0x1f));
}

/** Text of body bytes in the encoding that they have by their marks, their type and what they say of themselves. */
export const decodeText = (bytes: Uint8Array, mimeType: string | undefined): string =>
  textIn(encodingOf(bytes, mimeType), bytes);
