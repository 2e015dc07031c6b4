/** Characters that no source file should hold as they are: controls, line separators, what turns text around, what is unseen. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: these are the characters to escape.
export const UNSEEN = /[\u0000-\u001f\u007f-\u009f\u00ad\u061c\u200b-\u200f\u2028-\u202e\u2060-\u2069\ufeff]/gu;

const SHORT: Readonly<Record<string, string>> = { '\n': '\\n', '\r': '\\r', '\t': '\\t' };

/** What a string literal of a language escapes, and how. */
export interface LiteralRules {
  readonly open: string;
  readonly close: string;
  /** Characters that get a backslash. */
  readonly slashed: RegExp;
  /** How a code point is written that cannot stand as it is. */
  readonly coded: (codePoint: number) => string;
  /** Further characters written by their code point. */
  readonly also?: RegExp;
  /** Quotes that the language has beside these, taken where the text then needs fewer backslashes. */
  readonly other?: { readonly quote: string; readonly slashed: RegExp };
  /** Short escapes that the language has beside the usual three; false takes those away. */
  readonly short?: Readonly<Record<string, string>> | false;
}

/** Makes a literal of a text, on one line, whatever it holds. Lone surrogates become U+FFFD, which bytes would too. */
export function quoteBy({
  open,
  close,
  slashed,
  coded,
  also,
  other,
  short = SHORT,
}: LiteralRules): (text: string) => string {
  const write = (character: string): string =>
    (short === false ? undefined : short[character]) ?? coded(character.codePointAt(0) ?? 0);
  return (text) => {
    const takesOther = other !== undefined && count(text, open) > count(text, other.quote);
    let body = text.toWellFormed().replace(takesOther ? other.slashed : slashed, '\\$&');
    body = body.replace(UNSEEN, write);
    if (also !== undefined) body = body.replace(also, write);
    return takesOther ? other.quote + body + other.quote : open + body + close;
  };
}

const count = (text: string, quote: string): number => text.split(quote).length - 1;

/** Text that can stand in a literal without escapes: nothing unseen in it, and no line breaks. */
export const isSeen = (text: string): boolean => text.search(UNSEEN) === -1 && text.isWellFormed();

/** The longest of what a pattern's group found, in characters. */
export const longestRun = (text: string, pattern: RegExp): number =>
  [...text.matchAll(pattern)].reduce((longest, [, run = '']) => Math.max(longest, run.length), 0);

/** A code point in hexadecimal, at least so many digits. */
export const hex = (codePoint: number, digits: number): string => codePoint.toString(16).padStart(digits, '0');

/** A code point as \uXXXX, beyond U+FFFF as two of them. */
export function utf16Escape(codePoint: number): string {
  const text = String.fromCodePoint(codePoint);
  return Array.from({ length: text.length }, (_, at) => `\\u${hex(text.charCodeAt(at), 4)}`).join('');
}
