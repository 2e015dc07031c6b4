import { hex, quoteBy } from './escape';

/** A Python string literal (Python reference, 2.4.1). */
export const quotePython = quoteBy({
  open: "'",
  close: "'",
  slashed: /[\\']/g,
  other: { quote: '"', slashed: /[\\"]/g },
  coded: (codePoint) =>
    codePoint < 256
      ? `\\x${hex(codePoint, 2)}`
      : codePoint < 65536
        ? `\\u${hex(codePoint, 4)}`
        : `\\U${hex(codePoint, 8)}`,
});
