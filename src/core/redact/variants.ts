import { bytesFromText } from '../content';
import { misreadText, rereadText } from '../har';

// The ways in which a value may be written, so that it is found wherever it stands.

/** A way of writing a text. */
type Encoding = (text: string) => string;

const hexOf = (code: number, digits: number): string => code.toString(16).padStart(digits, '0');
const jsonInside = (text: string): string => JSON.stringify(text).slice(1, -1);

/** A way of writing a value: what is found, and what stands there instead for a placeholder of the same length. */
export interface Variant {
  readonly text: string;
  readonly write: (placeholder: string) => string;
}

/** Of shorter values base64 is too short to be told from anything else. */
const LEAST_BASE64_BYTES = 6;
const LEAST_HEX_BYTES = 6;

/**
 * Every way in which a value may stand in a text whose encodings are undone: plain; in base64 at each of its three offsets,
 * the web's alphabet too, as it is and as JSON has it; in hex; what is hex itself in either case; what is not ASCII as it is
 * recorded where its bytes are taken for characters, and the other way round.
 */
export function variantsOf(value: string): Variant[] {
  const variants = new Map<string, Variant>();
  const add = (text: string, write: (placeholder: string) => string): void => {
    if (text !== '' && !variants.has(text)) variants.set(text, { text, write });
  };
  add(value, (placeholder) => placeholder);
  if (/^[0-9a-f-]+$/i.test(value) && /[a-f]/i.test(value)) {
    add(value.toLowerCase(), (placeholder) => placeholder);
    add(value.toUpperCase(), (placeholder) => placeholder.toUpperCase());
  }
  for (const text of misreadings(value)) add(text, (placeholder) => placeholder);
  // What is in JSON before it is in base64, as in a token's claims, is escaped there.
  const inners = new Map<string, Encoding>([[value, (text) => text]]);
  if (!inners.has(jsonInside(value))) inners.set(jsonInside(value), jsonInside);
  for (const [written, inner] of inners) addBytes(written, inner, add);
  return [...variants.values()];
}

/** A value whose UTF-8 was taken for windows-1252 or for one character a byte, or that was before it was. */
function misreadings(value: string): string[] {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: all of ASCII.
  if (/^[\u0000-\u007f]*$/.test(value) || !value.isWellFormed()) return [];
  const reread = rereadText(value);
  const binary = (text: string): string =>
    Array.from(bytesFromText(text), (byte) => String.fromCharCode(byte)).join('');
  return [value, ...(reread === undefined ? [] : [reread])].flatMap((text) => [text, misreadText(text), binary(text)]);
}

function addBytes(
  written: string,
  inner: Encoding,
  add: (text: string, write: (placeholder: string) => string) => void,
): void {
  const bytes = bytesFromText(written.toWellFormed());
  if (bytes.length >= LEAST_HEX_BYTES) {
    const hex = (text: string): string =>
      Array.from(bytesFromText(text.toWellFormed()), (byte) => hexOf(byte, 2)).join('');
    add(hex(written), (placeholder) => hex(inner(placeholder)));
    add(hex(written).toUpperCase(), (placeholder) => hex(inner(placeholder)).toUpperCase());
  }
  if (bytes.length < LEAST_BASE64_BYTES) return;
  for (const offset of [0, 1, 2]) {
    const standard = (text: string): string => insideBase64(text, offset);
    const web = (text: string): string => standard(text).replaceAll('+', '-').replaceAll('/', '_');
    for (const encoding of [standard, web]) add(encoding(written), (placeholder) => encoding(inner(placeholder)));
  }
}

/** The characters of base64 that a text alone decides, where so many bytes stand before it in its group of three (RFC 4648 4). */
export function insideBase64(text: string, offset: number): string {
  const bytes = bytesFromText(text.toWellFormed());
  const padded = new Uint8Array(offset + bytes.length);
  padded.set(bytes, offset);
  const from = Math.ceil((offset * 8) / 6);
  const to = Math.floor((padded.length * 8) / 6);
  return base64Text(padded).slice(from, to);
}

/** The signs of base64 (RFC 4648 4) by their values. */
export const BASE64 = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

/** Base64 without padding. */
export function base64Text(bytes: Uint8Array): string {
  let text = '';
  for (let at = 0; at < bytes.length; at += 3) {
    const group = ((bytes[at] ?? 0) << 16) | ((bytes[at + 1] ?? 0) << 8) | (bytes[at + 2] ?? 0);
    const digits = Math.min(4, Math.ceil(((bytes.length - at) * 8) / 6));
    for (let digit = 0; digit < digits; digit++) text += BASE64[(group >> (18 - 6 * digit)) & 63];
  }
  return text;
}
