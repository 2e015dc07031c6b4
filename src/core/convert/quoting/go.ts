import { hex, quoteBy, UNSEEN } from './escape';

const interpreted = quoteBy({
  open: '"',
  close: '"',
  slashed: /[\\"]/g,
  coded: (codePoint) => (codePoint < 65536 ? `\\u${hex(codePoint, 4)}` : `\\U${hex(codePoint, 8)}`),
});

/** A Go string literal (Go specification, String literals): raw where that reads better and can hold it. */
export function quoteGo(text: string): string {
  const isRaw = /["\\]/.test(text) && !text.includes('`') && text.search(UNSEEN) === -1 && text.isWellFormed();
  return isRaw ? `\`${text}\`` : interpreted(text);
}
