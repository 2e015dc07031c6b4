/** Characters that a POSIX shell takes as they are, unquoted, anywhere in a word (POSIX 2.2). */
const PLAIN = /^[A-Za-z0-9_./:@%+=,-]+$/;

/**
 * A word that a POSIX shell reads as exactly this text: single quotes, with '\'' for a quote in it (POSIX 2.2.2).
 * Not for text with NUL, which no shell word can hold.
 */
export function quotePosix(text: string): string {
  return PLAIN.test(text) ? text : `'${text.replaceAll("'", "'\\''")}'`;
}

/**
 * A quoted format for POSIX printf that writes exactly these bytes: everything but plain printable ASCII as a
 * three-digit octal escape, % doubled (POSIX printf, extended description).
 */
export function quotePrintfFormat(bytes: Uint8Array): string {
  let format = '';
  for (const [at, byte] of bytes.entries()) {
    // A leading dash would make an option of it.
    const isPlain = !(at === 0 && byte === 0x2d) && byte >= 0x20 && byte < 0x7f && byte !== 0x27 && byte !== 0x5c;
    if (byte === 0x25) format += '%%';
    else format += isPlain ? String.fromCharCode(byte) : `\\${byte.toString(8).padStart(3, '0')}`;
  }
  return `'${format}'`;
}
