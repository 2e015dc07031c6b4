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

const COMMA = 0x2c;
const OPEN_BRACE = 0x7b;
const QUOTE = 0x22;
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

function skipSpace(bytes: Uint8Array, from: number): number {
  let at = from;
  while (bytes[at] === 0x20 || bytes[at] === 0x0a || bytes[at] === 0x0d || bytes[at] === 0x09) at++;
  return at;
}

const startsWith = (bytes: Uint8Array, from: number, key: Uint8Array): boolean =>
  key.every((byte, at) => bytes[from + at] === byte);
