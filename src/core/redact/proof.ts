import { isObject, type Json } from '../har';
import { percentDecoded } from '../http';
import type { Secret } from './store';

// The proof: looks for every value in what leaves, by undoing encodings, not by knowing how they were written. It shares nothing
// with what replaces.

/** A value that is still there: which, and where. */
export interface Leak {
  readonly secret: Secret;
  /** Where it stands, as "entries[3].response.content.text", and how it is written there. */
  readonly path: string;
  readonly as: string;
}

/** So many encodings inside one another are undone. */
const MOST_LAYERS = 3;
const MOST_LEAKS = 20;
/** Runs longer than this are not shifted by single characters: they are pictures and the like, whose base64 begins with them. */
const SHIFTED_CHARS = 4000;
const BEGINNING = 6;

/** Looks for values in texts. */
export class Prover {
  /** Values by their first characters. */
  readonly #byBeginning = new Map<string, Secret[]>();
  readonly #firsts = new Set<number>();
  readonly leaks: Leak[] = [];

  /** @param secrets those that must stand nowhere */
  constructor(secrets: readonly Secret[]) {
    const add = (text: string, secret: Secret): void => {
      const beginning = text.slice(0, BEGINNING);
      this.#byBeginning.set(beginning, [...(this.#byBeginning.get(beginning) ?? []), { ...secret, value: text }]);
      this.#firsts.add(text.charCodeAt(0));
    };
    for (const secret of secrets) {
      add(secret.value, secret);
      // As its bytes stand one to a character: base64 and hex are undone to bytes.
      const bytes = binaryText(secret.value);
      if (bytes !== secret.value) add(bytes, secret);
      // Hex is the same in either case.
      if (/^[0-9a-f-]+$/i.test(secret.value))
        for (const text of [secret.value.toLowerCase(), secret.value.toUpperCase()])
          if (text !== secret.value) add(text, secret);
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
    this.#find(text, path, as);
    if (layer >= MOST_LAYERS || text.length < BEGINNING) return;
    const deeper = (inner: string, how: string): void => {
      if (inner !== text) this.text(inner, path, as === 'plain' ? how : `${how} in ${as}`, layer + 1);
    };
    if (text.includes('%')) {
      deeper(text.replace(/(?:%[0-9a-f]{2})+/gi, percentDecoded), 'URL encoding');
      if (text.includes('+'))
        deeper(text.replaceAll('+', ' ').replace(/(?:%[0-9a-f]{2})+/gi, percentDecoded), 'a form');
    } else if (text.includes('+') && layer === 0) deeper(text.replaceAll('+', ' '), 'a form');
    if (text.includes('\\')) deeper(text.replace(/\\(?:u([0-9a-f]{4})|(.))/gi, unescaped), 'JSON');
    if (text.includes('&'))
      deeper(text.replace(/&(?:#(\d{1,6})|#x([0-9a-f]{1,5})|(amp|lt|gt|quot|apos));/gi, entity), 'HTML');
    this.#base64(text, path, as, layer);
    this.#hex(text, path, as);
  }

  #base64(text: string, path: string, as: string, layer: number): void {
    for (const { 0: run } of text.matchAll(/[A-Za-z0-9+/_-]{8,}/g)) {
      // Words of a language: base64 of anything hardly ever has neither a capital behind the first sign nor a digit.
      if (run.length < PLAIN_WORD_CHARS && PLAIN_WORD.test(run)) continue;
      const standard = run.replaceAll('-', '+').replaceAll('_', '/');
      const shifts = run.length > SHIFTED_CHARS ? 1 : 4;
      for (let shift = 0; shift < shifts; shift++) {
        const length = standard.length - shift;
        const binary = atob(standard.slice(shift, shift + length - (length % 4 === 1 ? 1 : 0)));
        const how = as === 'plain' ? 'base64' : `base64 in ${as}`;
        this.#find(binary, path, how);
        // What is no text once it is undone holds no further encoding.
        if (layer + 1 < MOST_LAYERS && isReadable(binary)) this.text(utf8Text(binary), path, how, layer + 1);
      }
    }
  }

  #hex(text: string, path: string, as: string): void {
    for (const { 0: run } of text.matchAll(/[0-9a-f]{12,}/gi)) {
      for (const shift of [0, 1]) {
        const pairs = run.slice(shift).match(/../g) ?? [];
        const bytes = pairs.map((pair) => String.fromCharCode(Number.parseInt(pair, 16))).join('');
        this.#find(bytes, path, as === 'plain' ? 'hex' : `hex in ${as}`);
      }
    }
  }

  #find(text: string, path: string, as: string): void {
    for (let at = 0; at < text.length; at++) {
      if (!this.#firsts.has(text.charCodeAt(at))) continue;
      for (const secret of this.#byBeginning.get(text.slice(at, at + BEGINNING)) ?? []) {
        if (text.startsWith(secret.value, at) && this.leaks.length < MOST_LEAKS) this.leaks.push({ secret, path, as });
      }
    }
  }
}

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

const utf8Text = (binary: string): string =>
  new TextDecoder().decode(Uint8Array.from(binary, (character) => character.charCodeAt(0)));

const LOOKED_AT = 64;

/** Hardly a control character among the first: a text, as far as one can tell. */
function isReadable(binary: string): boolean {
  const length = Math.min(LOOKED_AT, binary.length);
  let odd = 0;
  for (let at = 0; at < length; at++) {
    const code = binary.charCodeAt(at);
    if (code < 9 || (code > 13 && code < 32) || code === 127) odd++;
  }
  return odd <= length / 20;
}
