import type { Needle } from './query';

// A signature tells, without reading a text, that something cannot stand in it: a small table of the runs of three
// letters that it has (a Bloom filter of one hash). Only ASCII letters, digits, "_" and "-" count, whatever their case:
// no escaping that JSON and joined lines know changes those, so one signature serves every part of an exchange.

const CLASSES = 39;
const CLASS_OF = new Uint8Array(256);
for (let digit = 0; digit < 10; digit++) CLASS_OF[0x30 + digit] = 1 + digit;
for (let letter = 0; letter < 26; letter++) {
  CLASS_OF[0x41 + letter] = 11 + letter;
  CLASS_OF[0x61 + letter] = 11 + letter;
}
CLASS_OF[0x2d] = 37;
CLASS_OF[0x5f] = 38;

// The hash of a run is linear in its letters: what each adds at each of the three places is looked up. Nothing in the
// loop branches: every byte of a capture is signed.
const FACTOR = 0x9e3779b1;
const addFor = (weight: number): Int32Array => Int32Array.from(CLASS_OF, (own) => Math.imul(own * weight, FACTOR));
const ADD_FIRST = addFor(CLASSES * CLASSES);
const ADD_SECOND = addFor(CLASSES);
const ADD_THIRD = addFor(1);
const COUNTS = Uint8Array.from(CLASS_OF, (own) => Number(own !== 0));
/** By which of the last three bytes count: only where all do is there a run; all else marks the place 0. */
const KEEPS = Int32Array.of(0, 0, 0, 0, 0, 0, 0, -1);

const LEAST_BITS_LOG = 9;
const MOST_BITS_LOG = 15;

/** The place of a run of three in a table of 2 ** log bits. */
const placeOf = (run: number, log: number): number => Math.imul(run, FACTOR) >>> (32 - log);

/** The signature of texts given as UTF-8, or of any bytes. Its length tells the size of the table. */
export function signatureOf(parts: readonly Uint8Array[]): Uint8Array {
  let length = 0;
  for (const part of parts) length += part.length;
  const log = Math.min(MOST_BITS_LOG, Math.max(LEAST_BITS_LOG, Math.ceil(Math.log2(length / 8 + 1))));
  const shift = 32 - log;
  // A byte for each bit while it is made: setting a byte is faster than setting a bit.
  const marks = new Uint8Array(1 << log);
  for (const part of parts) {
    let first = 0;
    let second = 0;
    let last = 0;
    let counting = 0;
    for (let at = 0; at < part.length; at++) {
      const byte = part[at] as number;
      counting = ((counting << 1) | (COUNTS[byte] as number)) & 7;
      const hash = first + second + (ADD_THIRD[byte] as number);
      marks[(hash >>> shift) & (KEEPS[counting] as number)] = 1;
      first = ADD_FIRST[last] as number;
      last = byte;
      second = ADD_SECOND[byte] as number;
    }
  }
  const bits = new Uint8Array(marks.length >> 3);
  for (let at = 0; at < bits.length; at++) {
    const from = at << 3;
    let byte = 0;
    for (let bit = 0; bit < 8; bit++) byte |= (marks[from + bit] as number) << bit;
    bits[at] = byte;
  }
  return bits;
}

/** The runs of three in a needle that signatures know of. */
export function runsOf({ text }: Pick<Needle, 'text'>): number[] {
  const bytes = new TextEncoder().encode(text);
  const runs: number[] = [];
  for (let at = 2; at < bytes.length; at++) {
    const codes = [bytes[at - 2], bytes[at - 1], bytes[at]].map((byte) => CLASS_OF[byte ?? 0] ?? 0);
    const [a = 0, b = 0, c = 0] = codes;
    if (a !== 0 && b !== 0 && c !== 0) runs.push((a * CLASSES + b) * CLASSES + c);
  }
  return runs;
}

/** False where what has these runs cannot stand in what has this signature. */
export function mayHoldRuns(signature: Uint8Array, runs: readonly number[]): boolean {
  const log = Math.log2(signature.length << 3);
  for (const run of runs) {
    const place = placeOf(run, log);
    if (((signature[place >> 3] ?? 0) & (1 << (place & 7))) === 0) return false;
  }
  return true;
}
