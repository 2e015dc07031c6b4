import { bytesFromBase64 } from '../content';
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
const SHIFTED_CHARS = 100_000;
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
      const shifts = run.length > SHIFTED_CHARS ? 1 : 4;
      for (let shift = 0; shift < shifts; shift++) {
        const whole = run.slice(shift);
        const bytes = bytesFromBase64(whole.length % 4 === 1 ? whole.slice(0, -1) : whole);
        if (bytes === undefined) continue;
        const how = as === 'plain' ? 'base64' : `base64 in ${as}`;
        const inner = latinText(bytes);
        this.#find(inner, path, how);
        this.#find(utf8Text(bytes), path, how);
        // What is no text once it is undone holds no further encoding.
        if (layer + 1 < MOST_LAYERS && isReadable(inner)) this.text(utf8Text(bytes), path, how, layer + 1);
      }
    }
  }

  #hex(text: string, path: string, as: string): void {
    for (const { 0: run } of text.matchAll(/[0-9a-f]{12,}/gi)) {
      for (const shift of [0, 1]) {
        const pairs = run.slice(shift).match(/../g) ?? [];
        const bytes = Uint8Array.from(pairs, (pair) => Number.parseInt(pair, 16));
        this.#find(utf8Text(bytes), path, as === 'plain' ? 'hex' : `hex in ${as}`);
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

const latinText = (bytes: Uint8Array): string => new TextDecoder('latin1').decode(bytes);
const utf8Text = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);

/** Hardly a control character among the first: a text, as far as one can tell. */
function isReadable(text: string): boolean {
  const begin = text.slice(0, 200);
  // biome-ignore lint/suspicious/noControlCharactersInRegex: these are what texts hardly have.
  const odd = begin.match(/[\u0000-\u0008\u000e-\u001f\u007f-\u009f]/g)?.length ?? 0;
  return odd <= begin.length / 20;
}
