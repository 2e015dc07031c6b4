import { hex, quoteBy, UNSEEN } from './escape';

const double = quoteBy({
  open: '"',
  close: '"',
  slashed: /[\\"$]/g,
  coded: (codePoint) => `\\u{${hex(codePoint, 1)}}`,
});

/** A PHP string literal: $ begins a variable in double quotes alone (PHP manual, Strings). */
export const quotePhp = (text: string): string =>
  text.search(UNSEEN) === -1 ? `'${text.toWellFormed().replace(/[\\']/g, '\\$&')}'` : double(text);
