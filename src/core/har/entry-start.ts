import { BACKSLASH, CLOSE_BRACE, CLOSE_BRACKET, COLON, COMMA, OPEN_BRACE, OPEN_BRACKET, QUOTE } from './grammar';

/** Members that recorders write first in an entry. A nested object that begins with one of them is told by its shape. */
const FIRST_KEYS = [
  'startedDateTime',
  'pageref',
  'time',
  'request',
  'response',
  'connection',
  'serverIPAddress',
  'cache',
  'timings',
  'comment',
].map((key) => new TextEncoder().encode(`${key}"`));

const LIST_KEY = new TextEncoder().encode('"entries"');

const UNDERSCORE = 0x5f;

/** As many bytes as a start may stretch over: white space of laid-out JSON and the longest key. */
export const START_BYTES = 512;

/**
 * Where the next entry may begin in bytes that were lost track of: a comma, an opening brace and a key that recorders
 * write first, or one of their own with an underscore. Returns the brace's place, or -1.
 */
export function findEntryStart(bytes: Uint8Array, from: number): number {
  for (let comma = bytes.indexOf(COMMA, from); comma !== -1; comma = bytes.indexOf(COMMA, comma + 1)) {
    const brace = skipSpace(bytes, comma + 1);
    if (bytes[brace] !== OPEN_BRACE) continue;
    const quote = skipSpace(bytes, brace + 1);
    if (bytes[quote] !== QUOTE) continue;
    if (bytes[quote + 1] === UNDERSCORE || FIRST_KEYS.some((key) => startsWith(bytes, quote + 1, key))) return brace;
  }
  return -1;
}

/**
 * Where the list of entries begins in bytes that were lost track of before it: behind the bracket that follows its key.
 * Returns that place, or -1.
 */
export function findListStart(bytes: Uint8Array): number {
  for (let quote = bytes.indexOf(QUOTE); quote !== -1; quote = bytes.indexOf(QUOTE, quote + 1)) {
    if (!startsWith(bytes, quote, LIST_KEY)) continue;
    const colon = skipSpace(bytes, quote + LIST_KEY.length);
    const bracket = skipSpace(bytes, colon + 1);
    if (bytes[colon] === COLON && bytes[bracket] === OPEN_BRACKET) return bracket + 1;
  }
  return -1;
}

/** Whether bytes are the name of the list of entries. */
export const isListKey = (bytes: Uint8Array): boolean =>
  bytes.length === LIST_KEY.length && startsWith(bytes, 0, LIST_KEY);

function skipSpace(bytes: Uint8Array, from: number): number {
  let at = from;
  while (bytes[at] === 0x20 || bytes[at] === 0x0a || bytes[at] === 0x0d || bytes[at] === 0x09) at++;
  return at;
}

const startsWith = (bytes: Uint8Array, from: number, key: Uint8Array): boolean =>
  key.every((byte, at) => bytes[from + at] === byte);

/** Whether each bracket in a span is closed by its like: what follows a span in which one is not stands elsewhere. */
export function hasMatchingBrackets(bytes: Uint8Array): boolean {
  const open: number[] = [];
  let inString = false;
  for (let at = 0; at < bytes.length; at++) {
    const byte = bytes[at];
    if (inString) {
      if (byte === BACKSLASH) at++;
      else if (byte === QUOTE) inString = false;
    } else if (byte === QUOTE) inString = true;
    else if (byte === OPEN_BRACE) open.push(CLOSE_BRACE);
    else if (byte === OPEN_BRACKET) open.push(CLOSE_BRACKET);
    else if ((byte === CLOSE_BRACE || byte === CLOSE_BRACKET) && open.pop() !== byte) return false;
  }
  return open.length === 0 && !inString;
}
