import { hex, quoteBy } from './escape';

/** A Dart string literal: $ would begin an interpolation (Dart language specification, Strings). */
export const quoteDart = quoteBy({
  open: "'",
  close: "'",
  slashed: /[\\'$]/g,
  coded: (codePoint) => `\\u{${hex(codePoint, 1)}}`,
});
