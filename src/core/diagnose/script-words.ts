/** A word that could be the name of a field: what it begins with, and what it goes on with. */
const BEGINS = /[\p{L}_$]/u;
const GOES_ON = /[\p{L}\p{N}_$-]/u;

const [NONE, ON, BEGIN, UNKNOWN] = [0, 1, 2, 3];
/** What each character is in a word, found out as it is met; halves of surrogate pairs part words. */
const SORTS = new Uint8Array(65_536).fill(UNKNOWN);

function sortOf(code: number): number {
  const known = SORTS[code] ?? NONE;
  if (known !== UNKNOWN) return known;
  const sign = String.fromCharCode(code);
  const sort = BEGINS.test(sign) ? BEGIN : GOES_ON.test(sign) ? ON : NONE;
  SORTS[code] = sort;
  return sort;
}

/** By so many bits of its hash a word is known: of a thousand others hardly one is taken for known, and less is claimed then. */
const HASH_BITS = 24;
/** Enough for all scripts of a large site; beyond it nothing is claimed. */
const MOST_WORDS = 500_000;

/** The words that a capture's scripts and pages hold: a field that none of them names is hardly read. */
export class ScriptWords {
  /** A bit for each hash; there once a word is. */
  #bits: Uint32Array = NO_BITS;
  #count = 0;

  add(text: string): void {
    if (this.#bits.length === 0) this.#bits = new Uint32Array(1 << (HASH_BITS - 5));
    const bits = this.#bits;
    for (let at = 0; at < text.length; ) {
      const end = endOfWord(text, at);
      if (end > at) {
        const hash = hashOf(text, at, end);
        const block = bits[hash >>> 5] ?? 0;
        if ((block & (1 << (hash & 31))) === 0) {
          bits[hash >>> 5] = block | (1 << (hash & 31));
          this.#count++;
        }
      }
      at = Math.max(end, at + 1);
    }
  }

  /** Whether a name stands anywhere; undefined where too little or too much was read to tell. */
  has(name: string): boolean | undefined {
    if (this.#count === 0 || this.#count > MOST_WORDS) return undefined;
    for (let at = 0; at < name.length; ) {
      const end = endOfWord(name, at);
      const hash = hashOf(name, at, end);
      if (end > at && ((this.#bits[hash >>> 5] ?? 0) & (1 << (hash & 31))) === 0) return false;
      at = Math.max(end, at + 1);
    }
    return true;
  }
}

const NO_BITS = new Uint32Array(0);

/** Where the word ends that begins at a place; that place where none does. */
function endOfWord(text: string, start: number): number {
  if (sortOf(text.charCodeAt(start)) !== BEGIN) return start;
  let end = start + 1;
  while (end < text.length && sortOf(text.charCodeAt(end)) !== NONE) end++;
  return end;
}

/** FNV-1a, its upper bits folded onto the lower ones. */
function hashOf(text: string, start: number, end: number): number {
  let hash = 0x811c9dc5;
  for (let at = start; at < end; at++) hash = Math.imul(hash ^ text.charCodeAt(at), 0x01000193);
  return (hash ^ (hash >>> HASH_BITS)) & ((1 << HASH_BITS) - 1);
}
