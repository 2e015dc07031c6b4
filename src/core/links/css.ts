import { tokenize, tokenTypes } from 'css-tree';
import type { Tell } from './named';

/** What follows these names are addresses in quotes (CSS Images 4 2.4: image-set). */
const QUOTED_IN = /^(url|image-set|-webkit-image-set|src)\($/i;

/** The addresses that a style names: url() with and without quotes, @import, image-set (CSS Syntax 4). */
export function linksInCss(text: string, tell: Tell, base: 'page' | 'self' = 'self'): void {
  let expectsAddress = false;
  let depth = 0;
  tokenize(text, (type, start, end) => {
    const token = text.slice(start, end);
    if (type === tokenTypes.Url) {
      tell({ type: 'link', url: withoutEscapes(token.replace(/^url\(\s*|\s*\)$/gi, '')), base });
    } else if (type === tokenTypes.Function) {
      if (expectsAddress || QUOTED_IN.test(token)) depth++;
      expectsAddress = expectsAddress || QUOTED_IN.test(token);
    } else if (type === tokenTypes.AtKeyword) {
      expectsAddress = /^@import$/i.test(token);
    } else if (type === tokenTypes.String) {
      if (expectsAddress) tell({ type: 'link', url: withoutEscapes(token.slice(1, -1)), base });
    } else if (type === tokenTypes.RightParenthesis) {
      depth = Math.max(0, depth - 1);
      if (depth === 0) expectsAddress = false;
    } else if (type === tokenTypes.Semicolon || type === tokenTypes.LeftCurlyBracket) {
      expectsAddress = false;
      depth = 0;
    }
  });
}

/** CSS Syntax 4.3.7. */
const withoutEscapes = (text: string): string =>
  text
    // A string goes on behind a line end that is escaped.
    .replace(/\\(?:\r\n|[\n\r\f])/g, '')
    .replace(/\\([0-9a-f]{1,6})\s?/gi, (whole, hex: string) => {
      const code = Number.parseInt(hex, 16);
      return code > 0 && code <= 0x10ffff ? String.fromCodePoint(code) : whole;
    })
    .replace(/\\(.)/g, '$1');
