import { bytesFromText } from '../../content';

/** Characters that a POSIX shell takes as they are, unquoted, anywhere in a word (POSIX 2.2). */
const PLAIN = /^[A-Za-z0-9_./:@%+=,-]+$/;

/** What terminals act on, turn around or hide, also in quotes: it is shown and pasted as printf's escapes. */
export const ACTED_ON =
  // biome-ignore lint/suspicious/noControlCharactersInRegex: these are the characters to escape.
  /[\u0001-\u0009\u000b-\u001f\u007f-\u009f\u00ad\u061c\u200b-\u200f\u2028-\u202e\u2060-\u2069\ufeff]/;

/**
 * A word that a POSIX shell reads as exactly this text: single quotes, with '\'' for a quote in it (POSIX 2.2.2). What a
 * terminal would act on while it is pasted is written by printf. Not for text with NUL, which no shell word can hold.
 */
export function quotePosix(text: string): string {
  if (PLAIN.test(text)) return text;
  if (!ACTED_ON.test(text)) return singleQuoted(text);
  // Line feeds at the end would not come through a substitution (POSIX 2.6.3).
  const end = /\n*$/.exec(text)?.[0] ?? '';
  const written = `"$(printf ${quotePrintfFormat(printfFormat(bytesFromText(text.slice(0, text.length - end.length))))})"`;
  return end === '' ? written : written + singleQuoted(end);
}

/** A text in single quotes, whatever it holds but NUL. */
export const singleQuoted = (text: string): string => `'${text.replaceAll("'", "'\\''")}'`;

/** How printf's format writes each byte: plain printable ASCII as it is, "%" doubled, all else as three octal digits. */
const PRINTF: readonly string[] = Array.from({ length: 256 }, (_, byte) => {
  if (byte === 0x25) return '%%';
  const isPlain = byte >= 0x20 && byte < 0x7f && byte !== 0x27 && byte !== 0x5c;
  return isPlain ? String.fromCharCode(byte) : `\\${byte.toString(8).padStart(3, '0')}`;
});

/** What POSIX printf's format has for exactly these bytes (POSIX printf, extended description). */
export function printfFormat(bytes: Uint8Array): string {
  let format = '';
  for (const byte of bytes) format += PRINTF[byte];
  return format;
}

/** A format in quotes. */
export function quotePrintfFormat(format: string): string {
  // A leading dash would make an option of it.
  return `'${format.startsWith('-') ? `\\055${format.slice(1)}` : format}'`;
}
