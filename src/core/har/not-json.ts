import { EXPECTED, type Expect, QUOTE } from './grammar';
import type { HarError } from './problem';
import { harError } from './wording';

// What is wrong with bytes that are no JSON, or none that could be a capture.

const SHOWN_CHARS = 40;
const shown = (bytes: Uint8Array): string => new TextDecoder().decode(bytes.subarray(0, 80)).slice(0, SHOWN_CHARS);

/** A value that is none. */
export const valueProblem = (atByte: number, bytes: Uint8Array): HarError =>
  harError({ code: 'not-json', atByte, expected: 'a JSON value', found: `"${shown(bytes)}"` });

/** A member's name that is none. */
export const keyProblem = (atByte: number, bytes: Uint8Array): HarError =>
  harError({ code: 'not-json', atByte, expected: 'a key', found: shown(bytes) });

/** A byte that cannot stand where it does. */
export const byteProblem = (atByte: number, expect: Expect, byte: number): HarError =>
  harError({
    code: 'not-json',
    atByte,
    expected: EXPECTED[expect],
    found: byte > 0x20 && byte < 0x7f ? `"${String.fromCharCode(byte)}"` : `byte ${byte}`,
  });

/** An outermost value that is no list and no object. */
export function rootProblem(atByte: number, bytes: Uint8Array): HarError {
  const isString = bytes[0] === QUOTE;
  const text = shown(bytes);
  if (!isString && !/^(?:true|false|null|-?\d[\d.eE+-]*)$/.test(text)) {
    return harError({ code: 'not-json', atByte, expected: 'an object', found: JSON.stringify(text) });
  }
  const found = isString ? 'a string' : 'a single value';
  return harError({ code: 'not-har', where: 'its outermost value', expected: 'an object', found });
}
