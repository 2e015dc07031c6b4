import {
  bytesFromBase64,
  bytesFromText,
  type Coding,
  charsetOf,
  encodeText,
  findRemainingCoding,
  type Inflate,
  textFromBytes,
  textIn,
} from '../content';

/** What bytes of a body say, and the bytes that say another text in its place. */
export interface UnpackedText {
  readonly text: string;
  readonly write: (text: string) => Uint8Array;
}

/** Longer bodies are left packed, as bombs are. */
const UNPACKED_LIMIT_BYTES = 64 * 1024 * 1024;

/**
 * The text that recorded bytes are: packed or not, in UTF-8, in UTF-16 by its mark, or in the charset that the type names;
 * undefined where they are none. What was packed comes out unpacked where it is written anew.
 * @param coding what Content-Encoding says
 */
export function unpackText(
  bytes: Uint8Array,
  mimeType: string | undefined,
  coding: string | undefined,
  { inflate }: { readonly inflate: Inflate },
): UnpackedText | undefined {
  const packedIn = findRemainingCoding(coding, bytes) ?? codingByMark(bytes);
  const unpacked = packedIn === undefined ? undefined : inflate(bytes, packedIn, UNPACKED_LIMIT_BYTES);
  return readText(unpacked ?? bytes, mimeType);
}

/** In signs of base64; four are three bytes. */
const HEAD_CHARS = 1024;

/** Whether the first bytes of a body tell that it is no text, so that the others need not be looked at. */
export function isPlainlyBytes(encoded: string, mimeType: string | undefined, coding: string | undefined): boolean {
  if (coding !== undefined || charsetOf(mimeType) !== undefined) return false;
  const head = bytesFromBase64(encoded.slice(0, HEAD_CHARS));
  if (head === undefined || codingByMark(head) !== undefined || utf16ByMark(head) !== undefined) return false;
  try {
    // What is cut off in the middle of a character may go on.
    new TextDecoder('utf-8', { fatal: true }).decode(head, { stream: true });
    return false;
  } catch {
    return true;
  }
}

/** Files that are packed themselves say so by their first bytes (RFC 1952 2.3.1, RFC 8878 3.1.1, RFC 1950 2.2). */
function codingByMark([first = 0, second = 0, third = 0, fourth = 0]: Uint8Array): Coding | undefined {
  if (first === 0x1f && second === 0x8b && third === 8) return 'gzip';
  if (first === 0x28 && second === 0xb5 && third === 0x2f && fourth === 0xfd) return 'zstd';
  return (first & 15) === 8 && first >> 4 <= 7 && ((first << 8) | second) % 31 === 0 ? 'deflate' : undefined;
}

function readText(bytes: Uint8Array, mimeType: string | undefined): UnpackedText | undefined {
  const text = textFromBytes(bytes);
  if (text !== undefined) return { text, write: bytesFromText };
  const charset = utf16ByMark(bytes) ?? charsetOf(mimeType);
  const decoded = charset === undefined ? undefined : decodeStrictly(bytes, charset);
  if (charset === undefined || decoded === undefined) return undefined;
  return { text: decoded, write: (other) => encodeText(other, charset) ?? bytesFromText(other) };
}

/** WHATWG Encoding 6.1. */
function utf16ByMark([first, second]: Uint8Array): string | undefined {
  if (first === 0xff && second === 0xfe) return 'utf-16le';
  return first === 0xfe && second === 0xff ? 'utf-16be' : undefined;
}

function decodeStrictly(bytes: Uint8Array, charset: string): string | undefined {
  try {
    return textIn(charset, bytes, { isStrict: true, keepsMark: true });
  } catch {
    // The charset is not known, or the bytes are none of its text.
    return undefined;
  }
}
