import { findHeader, type NameValue, type Payload, type RecordedText, type ResponsePart } from '../model';
import { isEncodingUnnamed, misreadBytes, utf8Of } from './misread';
import { asAmount, asFilledText, asList, asText, isObject, type Json, member } from './shape';

// What recorders kept of payloads and bodies, and in which form.

/** `postData` (HAR 1.2): text and params may both, either or neither be there; some recorders write just the text or the list. */
export function readPayload(raw: Json | undefined, notes: string[]): Payload | undefined {
  if (raw === undefined || raw === null) return undefined;
  if (!isObject(raw)) {
    notes.push("its payload was not in HAR's form and was read all the same");
    if (Array.isArray(raw)) return { mimeType: undefined, recorded: undefined, params: readParams(raw) };
    return { mimeType: undefined, recorded: { encoding: 'text', text: String(raw) }, params: undefined };
  }
  const rawText = member(raw, 'text');
  const isTextOdd = typeof rawText === 'object' && rawText !== null;
  const rawParams = member(raw, 'params');
  if (isTextOdd || isObject(rawParams)) notes.push("its payload was not in HAR's form and was read all the same");
  const text = isTextOdd ? JSON.stringify(rawText) : asText(rawText);
  const encoding = asText(member(raw, 'encoding')) ?? asText(member(raw, '_encoding'));
  return {
    mimeType: asFilledText(member(raw, 'mimeType')),
    recorded: text === undefined ? undefined : recordedText(text, encoding),
    params: readParams(rawParams),
  };
}

function readParams(raw: Json | undefined): Payload['params'] {
  const items = isObject(raw) ? Object.entries(raw).map(([name, value]): Json => ({ name, value })) : asList(raw);
  const params = items.flatMap((item) => {
    const name = asText(member(item, 'name'));
    if (name === undefined) return [];
    const value = member(item, 'value');
    return {
      name,
      value: typeof value === 'object' && value !== null ? JSON.stringify(value) : String(value ?? ''),
      fileName: asText(member(item, 'fileName')),
      contentType: asText(member(item, 'contentType')),
    };
  });
  return params.length === 0 ? undefined : params;
}

const isBase64 = (encoding: string | undefined): boolean => encoding?.trim().toLowerCase() === 'base64';

const recordedText = (text: string, encoding: string | undefined): RecordedText =>
  isBase64(encoding) ? { encoding: 'base64', text } : { encoding: 'text', text };

/** Text of a body as it was recorded: text, base64, or bytes written one to a character. @param raw HAR's response */
export function readBodyText(
  text: string,
  raw: Json | undefined,
  { mimeType, headers }: Pick<ResponsePart, 'mimeType' | 'headers'>,
  notes: string[],
): RecordedText {
  const content = member(raw, 'content');
  if (isBase64(asText(member(content, 'encoding')))) {
    if (looksLikeBase64(text)) return { encoding: 'base64', text };
    notes.push('its body is marked base64 and is none; it was read as text');
    return { encoding: 'text', text };
  }
  const data = /^data:[^,]{0,200};base64,/i.exec(text.slice(0, 300))?.[0];
  if (data !== undefined && !/^text\//i.test(mimeType ?? '') && looksLikeBase64(text.slice(data.length))) {
    notes.push('its body was recorded as a data: address');
    return { encoding: 'base64', text: text.slice(data.length) };
  }
  const declared = declaredBytes(headers);
  if (isOneByteEach(text, mimeType, [asAmount(member(content, 'size')), declared])) {
    notes.push('its body was recorded as bytes, one to a character');
    return { encoding: 'latin1', text };
  }
  // Some recorders count the size in what they made of it.
  const wire = findHeader(headers, 'content-encoding') === undefined ? asAmount(member(raw, 'bodySize')) : undefined;
  const bytes = isEncodingUnnamed({ mimeType, headers }) ? misreadBytes(text, [declared, wire]) : undefined;
  if (bytes === undefined) return { encoding: 'text', text };
  notes.push('its body is UTF-8 that was recorded as windows-1252; it is read as UTF-8');
  return { encoding: 'latin1', text: bytes };
}

/** The length of a body as its headers tell it, where it was sent unpacked (RFC 9110 8.6). */
const declaredBytes = (headers: readonly NameValue[]): number | undefined =>
  findHeader(headers, 'content-encoding') === undefined ? asAmount(findHeader(headers, 'content-length')) : undefined;

/** By its beginning and its end: looking at all of every body would cost more than reading it. */
const looksLikeBase64 = (text: string): boolean =>
  /^[A-Za-z0-9+/_\s-]*=*\s*$/.test(text.slice(0, BASE64_SNIFF_CHARS)) &&
  /^[A-Za-z0-9+/_\s-]*=*\s*$/.test(text.slice(-BASE64_SNIFF_CHARS));
const BASE64_SNIFF_CHARS = 512;

const BYTES_TYPES = /^(?:image\/(?!svg)|font\/|audio\/|video\/|application\/(?:octet-stream|pdf|zip|wasm|font))/i;
/** Longer texts are taken for what their type says: each would have to be walked through. */
const ONE_BYTE_LIMIT_CHARS = 16 * 1024 * 1024;

/**
 * True where a text is bytes written one to a character: it has characters beyond ASCII and none beyond U+00FF, and its length,
 * not that of its UTF-8, is the one that was declared; or nothing was declared and its type is one of bytes.
 */
function isOneByteEach(text: string, mimeType: string | undefined, declared: readonly (number | undefined)[]): boolean {
  const known = declared.filter((length) => length !== undefined && length > 0);
  const isOfBytes = BYTES_TYPES.test(mimeType ?? '');
  if (text.length > ONE_BYTE_LIMIT_CHARS || (known.length > 0 ? !known.includes(text.length) : !isOfBytes))
    return false;
  // biome-ignore lint/suspicious/noControlCharactersInRegex: bytes are what is looked for.
  if (!/[\u0080-\u00ff]/.test(text) || /[^\u0000-\u00ff]/.test(text)) return false;
  // Some recorders count characters. Text that would be no UTF-8 as bytes is what it reads as.
  return isOfBytes || utf8Of(text) !== undefined;
}

/** The length of the recorded text in bytes; unknown where none was recorded. */
export function measureText(body: RecordedText | undefined): number | undefined {
  switch (body?.encoding) {
    case undefined:
      return undefined;
    case 'base64':
      return base64Bytes(body.text);
    case 'latin1':
      return body.text.length;
    case 'text':
      return utf8Bytes(body.text);
    default:
      return body satisfies never;
  }
}

/** Three bytes for every four characters that are neither white space nor padding (RFC 4648 4). */
function base64Bytes(text: string): number {
  // As recorders write it, in one piece: then it need not be gone through letter by letter, which takes as long as parsing.
  const padding = text.endsWith('==') ? 2 : text.endsWith('=') ? 1 : 0;
  const firstPadding = text.indexOf('=');
  const isOnePiece = [' ', '\n', '\r', '\t'].every((space) => !text.includes(space));
  if (isOnePiece && (firstPadding === -1 || firstPadding === text.length - padding)) {
    return Math.floor(((text.length - padding) * 3) / 4);
  }
  let characters = 0;
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code > 0x20 && code !== 0x3d) characters++;
  }
  return Math.floor((characters * 3) / 4);
}

const utf8Bytes = (text: string): number => new TextEncoder().encode(text).length;
