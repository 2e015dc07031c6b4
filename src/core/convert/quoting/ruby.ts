import { hex, quoteBy, UNSEEN } from './escape';

const double = quoteBy({
  open: '"',
  close: '"',
  slashed: /[\\"#]/g,
  coded: (codePoint) => `\\u{${hex(codePoint, 1)}}`,
});

/** A Ruby string literal: in single quotes only \ and ' need care; # interpolates in double ones alone. */
export const quoteRuby = (text: string): string =>
  text.search(UNSEEN) === -1 ? `'${text.toWellFormed().replace(/[\\']/g, '\\$&')}'` : double(text);
