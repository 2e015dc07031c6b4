import { bytesFromText } from '../../content';

/** Longer literals are several beside one another: C99 lets a compiler stop at 4,095 characters (C99 5.2.4.1). */
const LITERAL_BYTES = 1000;

const SHORT: Readonly<Record<number, string>> = { 9: '\\t', 10: '\\n', 13: '\\r', 34: '\\"', 63: '?', 92: '\\\\' };

/** How each byte is written: octal escapes end after three digits, hexadecimal ones go on as long as they can (C11 6.4.4.4). */
const WRITTEN: readonly string[] = Array.from({ length: 256 }, (_, byte) => {
  const short = SHORT[byte];
  if (short !== undefined) return short;
  return byte >= 0x20 && byte < 0x7f ? String.fromCharCode(byte) : `\\${byte.toString(8).padStart(3, '0')}`;
});

/** Bytes as a string literal of C: what is not ASCII by its bytes, no two question marks side by side (trigraphs, C11 5.2.1.1). */
export function quoteBytesC(bytes: Uint8Array, indent = '    '): string {
  const pieces: string[] = [];
  for (let from = 0; from === 0 || from < bytes.length; from += LITERAL_BYTES) {
    let literal = '';
    for (const byte of bytes.subarray(from, from + LITERAL_BYTES)) literal += WRITTEN[byte];
    pieces.push(`"${literal.replace(/\?(?=\?)/g, '\\?')}"`);
  }
  return pieces.join(`\n${indent}`);
}

export const quoteC = (text: string): string => quoteBytesC(bytesFromText(text.toWellFormed()));
