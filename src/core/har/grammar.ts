// What the splitter needs of the JSON grammar (RFC 8259), byte by byte.

export const QUOTE = 0x22;
export const BACKSLASH = 0x5c;
export const OPEN_BRACE = 0x7b;
export const CLOSE_BRACE = 0x7d;
export const OPEN_BRACKET = 0x5b;
export const CLOSE_BRACKET = 0x5d;
export const COMMA = 0x2c;
export const COLON = 0x3a;

/** What may come next between values. */
export type Expect = 'value' | 'value or ]' | 'key' | 'key or }' | ':' | ', or end' | 'nothing';

/** The same, as error sentences say it. */
export const EXPECTED: Record<Expect, string> = {
  value: 'a value',
  'value or ]': 'a value or ]',
  key: 'a key in quotes',
  'key or }': 'a key in quotes or }',
  ':': 'a colon',
  ', or end': 'a comma or the end of the list',
  nothing: 'the end of the file',
};

export const isSpace = (byte: number): boolean => byte === 0x20 || byte === 0x0a || byte === 0x0d || byte === 0x09;

/** The kind of value that begins with a byte; undefined where none does. */
export function valueType(byte: number): 'container' | 'string' | 'scalar' | undefined {
  if (byte === OPEN_BRACE || byte === OPEN_BRACKET) return 'container';
  if (byte === QUOTE) return 'string';
  // A scalar starts with -, a digit, or the first letter of true, false, null.
  const isScalar = byte === 0x2d || (byte >= 0x30 && byte <= 0x39) || byte === 0x74 || byte === 0x66 || byte === 0x6e;
  return isScalar ? 'scalar' : undefined;
}
