const SHORT: Readonly<Record<string, string>> = { '\n': '`n', '\r': '`r', '\t': '`t', '\0': '' };
const CONTROLS = /[\n\r\t\0]/g;

/** An AutoHotkey v2 string: the backtick escapes; a semicolon after a blank would begin a comment. No string holds a NUL. */
export const quoteAutoHotkey = (text: string): string =>
  `"${text
    .toWellFormed()
    .replace(/[`";]/g, '`$&')
    .replace(CONTROLS, (character) => SHORT[character] ?? '')}"`;
