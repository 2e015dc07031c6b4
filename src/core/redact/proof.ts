import { addTo } from '../collections';
import { isObject, type Json, misreadText, rereadText } from '../har';
import { percentDecoded } from '../http';
import type { Secret } from './store';

// The proof: looks for every value in what leaves, by undoing encodings, not by knowing how they were written. It shares nothing
// with what replaces.

/** A value that is still there: which, where, and how it is written there. A value is told once of a place. */
export interface Leak {
  readonly secret: Secret;
  /** Where it stands, as "entries[3].response.content.text", and how it is written there. */
  readonly path: string;
  readonly as: string;
}

/** So many encodings inside one another are undone. */
const MOST_LAYERS = 3;
const MOST_LEAKS = 20;
/** Longer windows are passed over no faster. */
const MOST_WINDOW = 16;
/** No shorter text holds an encoding of anything that is looked for. */
const LEAST_ENCODED = 6;

/** A way in which a value stands once encodings are undone: as its characters, or as its bytes one to a character. */
interface Pattern {
  readonly text: string;
  readonly secret: Secret;
}

/** By three characters it is told how far away the beginning of a value is at least (S. Wu, U. Manber 1994). */
const BLOCK = 3;
const HASHES = 1 << 18;
const hashOf = (first: number, second: number, third: number): number =>
  ((first << 10) ^ (second << 5) ^ third) & (HASHES - 1);

/** The signs of base64 in either alphabet (RFC 4648 4, 5), those of hex among them; the shortest run that is undone. */
const RUN_SIGNS = signsOf('ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/-_');
const LEAST_RUN = 8;
const HEX_SIGNS = signsOf('0123456789abcdefABCDEF');
/** Six bytes. */
const LEAST_HEX = 12;

function signsOf(signs: string): Uint8Array {
  const are = new Uint8Array(128);
  for (const sign of signs) are[sign.charCodeAt(0)] = 1;
  return are;
}

/** Gives where each run of certain signs stands that is not too short: every so many characters tell that there is none. */
function eachRun(text: string, signs: Uint8Array, least: number, tell: (start: number, end: number) => void): void {
  let free = 0;
  for (let at = least - 1; at < text.length; ) {
    if (signs[text.charCodeAt(at)] !== 1) {
      free = at + 1;
      at += least;
      continue;
    }
    let start = at;
    while (start > free && signs[text.charCodeAt(start - 1)] === 1) start--;
    let end = at + 1;
    while (end < text.length && signs[text.charCodeAt(end)] === 1) end++;
    if (end - start >= least) tell(start, end);
    free = end + 1;
    at = end + least;
  }
}

/** Texts and runs up to this length are remembered once nothing was found in them: most stand in a capture many times. */
const REMEMBERED_CHARS = 200;
const MOST_REMEMBERED = 200_000;

/** A text by itself: what is cut out of another keeps the whole of that. */
const copyOf = (text: string): string => JSON.parse(JSON.stringify(text)) as string;

/** Looks for values in texts. */
export class Prover {
  /** As many characters as the shortest pattern has, of those that are not told by themselves. */
  readonly #window: number;
  /** By a block's hash how far on the next window may hold the beginning of a pattern; 0 where this one may. */
  readonly #step: Uint8Array;
  readonly #byHash = new Map<number, Pattern[]>();
  /** Those that are too short to be told by their beginning: the user's own words alone are. */
  readonly #short: readonly Pattern[];
  /** Only these may hide behind the plus signs of a form. */
  readonly #hasSpaces: boolean;
  /** Room for what base64 is undone to. */
  #sextets = new Uint8Array(1024);
  #bytes = new Uint8Array(1024);
  #held = '';
  /** What holds nothing, by itself or in any encoding: short texts as a whole, and runs that could be base64 or hex. */
  readonly #cleanTexts = new Set<string>();
  readonly #cleanRuns = new Set<string>();
  /** How often anything was found. */
  #told = 0;
  readonly leaks: Leak[] = [];

  /** @param secrets those that must stand nowhere */
  constructor(secrets: readonly Secret[]) {
    this.#hasSpaces = secrets.some(({ value }) => value.includes(' '));
    const all = secrets.flatMap((secret) => [...writtenAs(secret.value)].map((text): Pattern => ({ text, secret })));
    this.#short = all.filter(({ text }) => text.length < BLOCK);
    const long = all.filter(({ text }) => text.length >= BLOCK);
    this.#window = Math.min(MOST_WINDOW, ...new Set(long.map(({ text }) => text.length)));
    this.#step = new Uint8Array(HASHES).fill(this.#window - BLOCK + 1);
    for (const pattern of long) this.#add(pattern);
  }

  #add(pattern: Pattern): void {
    const { text } = pattern;
    for (let end = BLOCK; end <= this.#window; end++) {
      const hash = hashOf(text.charCodeAt(end - 3), text.charCodeAt(end - 2), text.charCodeAt(end - 1));
      this.#step[hash] = Math.min(this.#step[hash] ?? 0, this.#window - end);
      if (end === this.#window) addTo(this.#byHash, hash, pattern);
    }
  }

  /** Looks through all texts of a JSON value, names of members and numbers too. */
  look(value: Json, path: string): void {
    if (this.leaks.length >= MOST_LEAKS) return;
    if (typeof value === 'string') this.text(value, path);
    else if (typeof value === 'number') this.#find(String(value), path, 'a number');
    else if (Array.isArray(value)) for (const [at, item] of value.entries()) this.look(item, `${path}[${at}]`);
    else if (isObject(value)) {
      for (const [name, own] of Object.entries(value)) {
        this.text(name, `${path}, a name`);
        this.look(own, `${path}.${name}`);
      }
    }
  }

  /** Looks through a text, and through what it is once each encoding in it is undone. */
  text(text: string, path: string, as = 'plain', layer = 0): void {
    if (this.leaks.length >= MOST_LEAKS) return;
    if (layer > 0 || text.length > REMEMBERED_CHARS) this.#text(text, path, as, layer);
    else this.#onceClean(this.#cleanTexts, text, () => this.#text(text, path, as, layer));
  }

  /** Looks where nothing is known, and remembers where nothing was found. */
  #onceClean(clean: Set<string>, text: string, look: () => void): void {
    if (clean.has(text)) return;
    const before = this.#told;
    look();
    if (this.#told !== before) return;
    if (clean.size >= MOST_REMEMBERED) clean.clear();
    clean.add(copyOf(text));
  }

  #text(text: string, path: string, as: string, layer: number): void {
    this.#find(text, path, as);
    if (layer >= MOST_LAYERS || text.length < LEAST_ENCODED) return;
    const deeper = (inner: string, how: string): void => {
      if (inner !== text) this.text(inner, path, as === 'plain' ? how : `${how} in ${as}`, layer + 1);
    };
    if (text.includes('%')) deeper(text.replace(/(?:%[0-9a-f]{2})+/gi, percentDecoded), 'URL encoding');
    if (this.#hasSpaces && text.includes('+'))
      deeper(text.replaceAll('+', ' ').replace(/(?:%[0-9a-f]{2})+/gi, percentDecoded), 'a form');
    if (text.includes('\\')) deeper(text.replace(/\\(?:u([0-9a-f]{4})|(.))/gi, unescaped), 'JSON');
    if (text.includes('&'))
      deeper(text.replace(/&(?:#(\d{1,6})|#x([0-9a-f]{1,5})|(amp|lt|gt|quot|apos));/gi, entity), 'HTML');
    eachRun(text, RUN_SIGNS, LEAST_RUN, (start, end) => this.#run(text.slice(start, end), path, as, layer));
  }

  #run(run: string, path: string, as: string, layer: number): void {
    const look = (): void => {
      if (run.length >= LEAST_HEX) this.#hex(run, path, as);
      // Words of a language: base64 of anything hardly ever has neither a capital behind the first sign nor a digit.
      if (run.length >= PLAIN_WORD_CHARS || !PLAIN_WORD.test(run)) this.#base64(run, path, as, layer);
    };
    // In a deeper layer fewer encodings are undone.
    if (layer > 0 || run.length > REMEMBERED_CHARS) look();
    else this.#onceClean(this.#cleanRuns, run, look);
  }

  #base64(run: string, path: string, as: string, layer: number): void {
    const how = as === 'plain' ? 'base64' : `base64 in ${as}`;
    for (let shift = 0; shift < 4; shift++) {
      this.#hold(run);
      const length = this.#undo(shift, run.length);
      this.#findBytes(length, path, how);
      // What is no text once it is undone holds no further encoding.
      if (layer + 1 < MOST_LAYERS && length >= LEAST_ENCODED && isReadable(this.#bytes, length))
        this.text(new TextDecoder().decode(this.#bytes.slice(0, length)), path, how, layer + 1);
    }
  }

  /** Has the sextets of a run at hand: what stood in it may have been looked at meanwhile. */
  #hold(run: string): void {
    if (this.#held === run) return;
    this.#makeRoom(run.length);
    this.#held = run;
    for (let at = 0; at < run.length; at++) this.#sextets[at] = SEXTETS[run.charCodeAt(at)] ?? 0;
  }

  #makeRoom(length: number): void {
    if (this.#sextets.length >= length) return;
    this.#held = '';
    this.#sextets = new Uint8Array(length * 2);
    this.#bytes = new Uint8Array(length * 2);
  }

  /** Undoes base64 (RFC 4648 4) from a sextet on, as if it began there; gives how many bytes it is. */
  #undo(from: number, to: number): number {
    const [sextets, bytes] = [this.#sextets, this.#bytes];
    let length = 0;
    for (let at = from; at + 1 < to; at += 4) {
      const [a = 0, b = 0, c = 0, d = 0] = [sextets[at], sextets[at + 1], sextets[at + 2], sextets[at + 3]];
      bytes[length++] = (a << 2) | (b >> 4);
      if (at + 2 < to) bytes[length++] = ((b & 15) << 4) | (c >> 2);
      if (at + 3 < to) bytes[length++] = ((c & 3) << 6) | d;
    }
    return length;
  }

  #hex(text: string, path: string, as: string): void {
    eachRun(text, HEX_SIGNS, LEAST_HEX, (start, end) => {
      this.#makeRoom(end - start);
      for (const shift of [0, 1]) {
        let length = 0;
        for (let at = start + shift; at + 1 < end; at += 2)
          this.#bytes[length++] = (hexDigit(text.charCodeAt(at)) << 4) | hexDigit(text.charCodeAt(at + 1));
        this.#findBytes(length, path, as === 'plain' ? 'hex' : `hex in ${as}`);
      }
    });
  }

  #find(text: string, path: string, as: string): void {
    for (const { text: short, secret } of this.#short) if (text.includes(short)) this.#tell(secret, path, as);
    const [steps, window] = [this.#step, this.#window];
    for (let end = window; end <= text.length; ) {
      const hash = hashOf(text.charCodeAt(end - 3), text.charCodeAt(end - 2), text.charCodeAt(end - 1));
      const step = steps[hash] ?? 0;
      if (step === 0) {
        for (const pattern of this.#byHash.get(hash) ?? [])
          if (text.startsWith(pattern.text, end - window)) this.#tell(pattern.secret, path, as);
      }
      end += step === 0 ? 1 : step;
    }
  }

  /** The same in the first of the bytes that were undone. */
  #findBytes(length: number, path: string, as: string): void {
    const [bytes, steps, window] = [this.#bytes, this.#step, this.#window];
    for (let end = window; end <= length; ) {
      const hash = hashOf(bytes[end - 3] ?? 0, bytes[end - 2] ?? 0, bytes[end - 1] ?? 0);
      const step = steps[hash] ?? 0;
      if (step === 0) {
        for (const pattern of this.#byHash.get(hash) ?? [])
          if (standsAt(bytes, length, end - window, pattern.text)) this.#tell(pattern.secret, path, as);
      }
      end += step === 0 ? 1 : step;
    }
  }

  #tell(secret: Secret, path: string, as: string): void {
    this.#told++;
    const isTold = this.leaks.some((leak) => leak.path === path && leak.secret === secret);
    if (!isTold && this.leaks.length < MOST_LEAKS) this.leaks.push({ secret, path, as });
  }
}

/** A value as its characters, as they were misread, and as their bytes one to a character; hex is the same in either case. */
function writtenAs(value: string): ReadonlySet<string> {
  const cases = /^[0-9a-f-]+$/i.test(value) ? [value, value.toLowerCase(), value.toUpperCase()] : [value];
  const read = cases.flatMap((text) => [text, rereadText(text) ?? text]);
  const written = read.flatMap((text) => [
    text,
    binaryText(text),
    ...(BEYOND_ASCII.test(text) ? [misreadText(text)] : []),
  ]);
  return new Set(written.flatMap((text) => [text, binaryText(text)]));
}

const BEYOND_ASCII = /[^\0-\x7f]/;

function standsAt(bytes: Uint8Array, length: number, from: number, text: string): boolean {
  if (from + text.length > length) return false;
  for (let at = 0; at < text.length; at++) if (bytes[from + at] !== text.charCodeAt(at)) return false;
  return true;
}

/** What each sign of base64 stands for, in the alphabet of RFC 4648 4 and in that of 5. */
const SEXTETS = new Uint8Array(128);
for (const [value, sign] of [...'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'].entries())
  SEXTETS[sign.charCodeAt(0)] = value;
SEXTETS['-'.charCodeAt(0)] = 62;
SEXTETS['_'.charCodeAt(0)] = 63;

/** The value of a hex digit by its code: letters of either case are nine more than their last four bits. */
const hexDigit = (code: number): number => (code & 15) + (code > 57 ? 9 : 0);

const SIGNS: Readonly<Record<string, string>> = { n: '\n', r: '\r', t: '\t', b: '\b', f: '\f' };
const unescaped = (_: string, code: string | undefined, sign: string | undefined): string =>
  code === undefined ? (SIGNS[sign ?? ''] ?? sign ?? '') : String.fromCharCode(Number.parseInt(code, 16));

const ENTITIES: Readonly<Record<string, string>> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" };
function entity(_: string, decimal: string | undefined, hex: string | undefined, name: string | undefined): string {
  if (name !== undefined) return ENTITIES[name.toLowerCase()] ?? '';
  const code = decimal === undefined ? Number.parseInt(hex ?? '', 16) : Number(decimal);
  return code > 0x10ffff ? '' : String.fromCodePoint(code);
}

const PLAIN_WORD_CHARS = 40;
const PLAIN_WORD = /^[A-Z]?[a-z]+$/;

/** A text's bytes in UTF-8, one to a character. */
const binaryText = (text: string): string =>
  Array.from(new TextEncoder().encode(text.toWellFormed()), (byte) => String.fromCharCode(byte)).join('');

const LOOKED_AT = 64;

/** Text in UTF-8 (RFC 3629 4), as far as its beginning tells, with hardly a control character. */
function isReadable(bytes: Uint8Array, length: number): boolean {
  const end = Math.min(LOOKED_AT, length);
  let odd = 0;
  let following = 0;
  for (let at = 0; at < end; at++) {
    const byte = bytes[at] ?? 0;
    if (following > 0) {
      if (byte >> 6 !== 2) return false;
      following--;
    } else if (byte >= 0x80) {
      following = byte >= 0xf0 ? 3 : byte >= 0xe0 ? 2 : 1;
      if (byte < 0xc2 || byte > 0xf4) return false;
    } else if (byte < 9 || (byte > 13 && byte < 32) || byte === 127) odd++;
  }
  return odd <= end / 20;
}
