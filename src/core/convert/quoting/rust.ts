import { hex, isSeen, longestRun, quoteBy } from './escape';

/** A Rust string literal (Rust reference, String literals). */
export const quoteRust = quoteBy({
  open: '"',
  close: '"',
  slashed: /[\\"]/g,
  coded: (codePoint) => `\\u{${hex(codePoint, 1)}}`,
});

/**
 * A Rust literal that reads as the text does: a raw one where there is something to escape and nothing unseen (Rust
 * reference, Raw string literals).
 */
export function quoteRustRaw(text: string): string {
  if (!/["\\]/.test(text) || !isSeen(text)) return quoteRust(text);
  const marks = '#'.repeat(longestRun(text, /"(#*)/g) + 1);
  return `r${marks}"${text}"${marks}`;
}
