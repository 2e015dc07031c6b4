import { hex, quoteBy, utf16Escape } from './escape';

/** A JavaScript string literal (ECMA-262, 12.9.4). */
export const quoteJavaScript = quoteBy({
  open: "'",
  close: "'",
  slashed: /[\\']/g,
  other: { quote: '"', slashed: /[\\"]/g },
  coded: (codePoint) => (codePoint < 256 ? `\\x${hex(codePoint, 2)}` : utf16Escape(codePoint)),
  // Code is pasted into pages, too: no literal may end the script element that it stands in.
  also: /(?<=<)[/!]/g,
});
