import { quoteBy, utf16Escape } from './escape';

/**
 * A Java string literal (Java language specification, 3.10.5). A control is written in octal: \u000a would be a line
 * break in the source itself (3.3). What is not ASCII is escaped, since the compiler takes a file's encoding from the machine.
 */
export const quoteJava = quoteBy({
  open: '"',
  close: '"',
  slashed: /[\\"]/g,
  coded: (codePoint) => (codePoint < 128 ? `\\${codePoint.toString(8).padStart(3, '0')}` : utf16Escape(codePoint)),
  also: /[^\0-\x7f]/gu,
});
