import { hex, quoteBy } from './escape';

/** A Swift string literal: a backslash begins escapes and interpolation alike (The Swift Programming Language, Lexical Structure). */
export const quoteSwift = quoteBy({
  open: '"',
  close: '"',
  slashed: /[\\"]/g,
  coded: (codePoint) => `\\u{${hex(codePoint, 1)}}`,
});
