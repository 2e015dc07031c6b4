import { findHeader, type ResponsePart } from '../model';

// Browsers read text of a type that names no charset as windows-1252 where they hand it to a recorder, whatever the page
// made of it: "ü" in UTF-8 is recorded as "Ã¼". Styles, tables and event streams are what it happens to.

/** Text types that say nothing of their own encoding: pages and scripts have a way, JSON and XML are read as UTF-8. */
const UNNAMED = /^\s*text\/(?!html|javascript|ecmascript|json|xml)/i;
/** Longer texts are taken as they are: each would have to be walked through. */
const MOST_CHARS = 16 * 1024 * 1024;

/** The characters that windows-1252 has from byte 0x80 on, where Latin-1 has controls (WHATWG Encoding 9). */
const SPECIALS = '€\u0081‚ƒ„…†‡ˆ‰Š‹Œ\u008dŽ\u008f\u0090‘’“”•–—˜™š›œ\u009džŸ';
const FIRST_SPECIAL = 0x80;
const BYTE_OF = new Map(Array.from(SPECIALS, (character, at) => [character.charCodeAt(0), FIRST_SPECIAL + at]));

/** Whether a recorder may have read a response's text in an encoding of its own choice. */
export const isEncodingUnnamed = ({ mimeType, headers }: Pick<ResponsePart, 'mimeType' | 'headers'>): boolean => {
  const types = [mimeType, findHeader(headers, 'content-type')].filter((type) => type !== undefined);
  return types.some((type) => UNNAMED.test(type)) && !types.some((type) => /charset\s*=/i.test(type));
};

/**
 * The bytes, one to a character, of a text in UTF-8 that was recorded as windows-1252. Undefined where it is plain ASCII,
 * where its bytes would be no UTF-8, or where its length says that its characters are its own.
 * @param sentBytes what is known of its length as it was sent, nothing packed
 */
export function misreadBytes(text: string, sentBytes: readonly (number | undefined)[]): string | undefined {
  if (text.length > MOST_CHARS || isAscii(text)) return undefined;
  const bytes = bytesIn1252(text);
  if (bytes === undefined || utf8Of(bytes) === undefined) return undefined;
  const isItself = sentBytes.includes(new TextEncoder().encode(text).length) && !sentBytes.includes(bytes.length);
  return isItself ? undefined : bytes;
}

/** How a text is recorded where its UTF-8 is taken for windows-1252. */
export const misreadText = (text: string): string =>
  Array.from(new TextEncoder().encode(text), (byte) =>
    String.fromCharCode(SPECIALS.charCodeAt(byte - FIRST_SPECIAL) || byte),
  ).join('');

/** What a text was before it was taken for windows-1252; undefined where it was not. */
export function rereadText(text: string): string | undefined {
  const bytes = isAscii(text) ? undefined : bytesIn1252(text);
  return bytes === undefined ? undefined : utf8Of(bytes);
}

// biome-ignore lint/suspicious/noControlCharactersInRegex: all of ASCII.
const isAscii = (text: string): boolean => !/[^\u0000-\u007f]/.test(text);

/** The bytes that a text is in windows-1252, one to a character; undefined where it has other characters. */
function bytesIn1252(text: string): string | undefined {
  const pieces: string[] = [];
  let from = 0;
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code <= 0xff) continue;
    const byte = BYTE_OF.get(code);
    if (byte === undefined) return undefined;
    pieces.push(text.slice(from, at), String.fromCharCode(byte));
    from = at + 1;
  }
  return pieces.join('') + text.slice(from);
}

/** The text that bytes, one to a character, are in UTF-8 (RFC 3629); undefined where they are none. */
export function utf8Of(text: string): string | undefined {
  const bytes = new Uint8Array(text.length);
  for (let at = 0; at < text.length; at++) bytes[at] = text.charCodeAt(at);
  try {
    return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
  } catch {
    return undefined;
  }
}
