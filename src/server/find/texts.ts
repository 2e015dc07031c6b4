import { isAscii } from 'node:buffer';
import { bodyKind, decodeText, encodingOf, readPayloadContent, recordedBytes, unpackBytes } from '#core/content';
import type { Needle, TextToSearch } from '#core/find';
import { type Json, member, misreadText, readBodyText } from '#core/har';
import { type Exchange, findResponse } from '#core/model';
import { inflateWithZlib } from '../inflate';

/** A body's bytes as they are kept: of text that the recorder had decoded, or as they came. */
export interface KeptBody {
  readonly bytes: Buffer;
  readonly isDecodedText: boolean;
}

/** A response's body as it was recorded; absent where none was. */
export function keptBody(exchange: Exchange): KeptBody | undefined {
  const body = findResponse(exchange)?.body;
  if (body === undefined) return undefined;
  return { bytes: Buffer.from(recordedBytes(body)), isDecodedText: body.encoding === 'text' };
}

/** A body that is kept apart from its entry, as it is read where it stands in it: characters may be bytes. */
export function asRead(exchange: Exchange, entry: Json, kept: KeptBody): KeptBody {
  const response = findResponse(exchange);
  if (response === undefined || !kept.isDecodedText || isAscii(kept.bytes)) return kept;
  const read = readBodyText(kept.bytes.toString('utf8'), member(entry, 'response'), response, []);
  return read.encoding === 'text' ? kept : { bytes: Buffer.from(recordedBytes(read)), isDecodedText: false };
}

/** The text of a payload in which is searched; absent where none was recorded. */
export function payloadText(exchange: Exchange): TextToSearch | undefined {
  const { payload } = exchange.request;
  if (payload === undefined) return undefined;
  const content = readPayloadContent(payload, exchange.request.bodyBytes);
  if (content.type === 'unrecorded') return undefined;
  if (content.type === 'parts') {
    const lines = content.parts.map(({ name, value, fileName }) => `${name}: ${fileName ?? ''} ${value}`);
    return { text: lines.join('\n'), shape: 'text' };
  }
  return textOf(bodyKind(payload.mimeType, content.bytes), Buffer.from(content.bytes), payload.mimeType);
}

/**
 * The text of a response body in which is searched. Unpacking and decoding take most of the time, so bytes that cannot
 * hold what is looked for are not decoded.
 */
export function bodyText(exchange: Exchange, kept: KeptBody, needles: readonly Needle[]): TextToSearch | undefined {
  const response = findResponse(exchange);
  if (response === undefined || kept.bytes.length === 0) return undefined;
  const { bytes } = kept.isDecodedText ? kept : unpackBytes(response, kept.bytes, inflateWithZlib);
  const buffer = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const kind = bodyKind(response.mimeType, buffer);
  const charset = kept.isDecodedText ? undefined : response.mimeType;
  const isUtf8 = kept.isDecodedText || encodingOf(buffer, response.mimeType) === 'utf-8';
  if (isUtf8 && !mayHold(buffer, needles)) return undefined;
  return textOf(kind, buffer, charset);
}

function textOf(
  kind: ReturnType<typeof bodyKind>,
  bytes: Buffer,
  charsetType: string | undefined,
): TextToSearch | undefined {
  switch (kind) {
    case 'json':
    case 'text':
      return { text: decodeText(bytes, charsetType), shape: kind };
    case 'image':
    case 'binary':
      return { text: bytes.toString('latin1'), shape: 'binary' };
    case 'absent':
    case 'empty':
      return undefined;
    default:
      return kind satisfies never;
  }
}

/** Whether UTF-8 bytes may hold one of the needles; true as well where that cannot be told without decoding them. */
export function mayHold(bytes: Buffer, needles: readonly Needle[]): boolean {
  if (needles.length === 0) return true;
  // A byte order mark tells of UTF-16, whose bytes are not those of the needles.
  if (bytes[0] === 0xfe || bytes[0] === 0xff) return true;
  let folded: string | undefined;
  return needles.some(({ text, ignoresCase }) => {
    if (!ignoresCase || !/[a-z]/i.test(text))
      return isPlain(text) ? bytes.includes(text, 0, 'latin1') : ignoresCase || mayHoldOther(bytes, text);
    if (!isPlain(text)) return true;
    folded ??= bytes.toString('latin1').toLowerCase();
    return folded.includes(text.toLowerCase());
  });
}

const isPlain = (text: string): boolean => /^[\0-\x7f]*$/.test(text);

/** Beyond ASCII a text may have been recorded as its bytes, one to a character, or in windows-1252. */
const mayHoldOther = (bytes: Buffer, text: string): boolean =>
  [text, Buffer.from(text).toString('latin1'), misreadText(text)].some((written) => bytes.includes(written));
