import { hex, quoteBy } from './escape';

/** A Rust string literal (Rust reference, String literals). */
export const quoteRust = quoteBy({
  open: '"',
  close: '"',
  slashed: /[\\"]/g,
  coded: (codePoint) => `\\u{${hex(codePoint, 1)}}`,
});
