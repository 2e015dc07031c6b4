import { hex, quoteBy } from './escape';

/** An R string literal: what is not ASCII by its code point, so that the machine's locale plays no part (R, ?Quotes). */
export const quoteR = quoteBy({
  open: '"',
  close: '"',
  slashed: /[\\"]/g,
  coded: (codePoint) => (codePoint < 65536 ? `\\u{${hex(codePoint, 1)}}` : `\\U{${hex(codePoint, 1)}}`),
  also: /[^\0-\x7f]/gu,
});
