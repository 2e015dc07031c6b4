/** A pattern found in a text: [start, end) and which of the patterns it is. */
export interface Occurrence {
  readonly start: number;
  readonly end: number;
  readonly pattern: number;
}

/** By so many characters a place is told where no pattern begins. The proof has a measure of its own: it shares nothing with this. */
const BEGINNING = 3;
const HASHES = 1 << 18;
const hashOf = (first: number, second: number, third: number): number =>
  ((first << 10) ^ (second << 5) ^ third) & (HASHES - 1);

/**
 * Finds any of many texts in one pass (A. V. Aho, M. J. Corasick 1975): O(length of the text + occurrences), however many
 * patterns there are. Of patterns that overlap the one that begins first counts, and of those the longest.
 */
export class Automaton {
  /** By state a map from character to the next state; the root's is asked for most. */
  readonly #next: Map<number, number>[] = [new Map()];
  readonly #fail: number[] = [0];
  /** The longest pattern that ends in a state, -1 for none. */
  readonly #ends: number[] = [-1];
  readonly #patterns: readonly string[];
  #depths: number[] | undefined;
  /** Characters, and runs of three, that any pattern begins with: everything else is passed over at once. */
  readonly #first: Uint8Array;
  readonly #beginnings = new Uint8Array(HASHES);

  constructor(patterns: readonly string[]) {
    this.#patterns = patterns;
    this.#first = new Uint8Array(65_536);
    for (const [at, pattern] of patterns.entries()) {
      let state = 0;
      for (let place = 0; place < pattern.length; place++) {
        const code = pattern.charCodeAt(place);
        let next = this.#next[state]?.get(code);
        if (next === undefined) {
          next = this.#next.length;
          this.#next.push(new Map());
          this.#fail.push(0);
          this.#ends.push(-1);
          this.#next[state]?.set(code, next);
        }
        state = next;
      }
      if (pattern !== '') {
        this.#ends[state] = at;
        this.#first[pattern.charCodeAt(0)] = 1;
        if (pattern.length < BEGINNING) this.#beginnings.fill(1);
        this.#beginnings[hashOf(pattern.charCodeAt(0), pattern.charCodeAt(1), pattern.charCodeAt(2))] = 1;
      }
    }
    this.#link();
  }

  #link(): void {
    const open = [...(this.#next[0]?.values() ?? [])];
    for (let at = 0; at < open.length; at++) {
      const state = open[at] ?? 0;
      for (const [code, child] of this.#next[state] ?? []) {
        open.push(child);
        let back = this.#fail[state] ?? 0;
        while (back !== 0 && this.#next[back]?.get(code) === undefined) back = this.#fail[back] ?? 0;
        const to = this.#next[back]?.get(code) ?? 0;
        this.#fail[child] = to === child ? 0 : to;
        if (this.#ends[child] === -1) this.#ends[child] = this.#ends[this.#fail[child] ?? 0] ?? -1;
      }
    }
  }

  /** Occurrences in their order, none overlapping another. */
  find(text: string): Occurrence[] {
    const found: Occurrence[] = [];
    let state = 0;
    let best: Occurrence | undefined;
    for (let at = 0; at <= text.length; at++) {
      // Nothing that is still open begins with what was found, or before it: that is the one, and what follows begins behind it.
      if (best !== undefined && (at === text.length || at - this.#depthOf(state) > best.start)) {
        found.push(best);
        at = best.end;
        state = 0;
        best = undefined;
      }
      if (at >= text.length) break;
      const code = text.charCodeAt(at);
      if (state === 0) {
        if (this.#first[code] === 0) continue;
        if (this.#beginnings[hashOf(code, text.charCodeAt(at + 1), text.charCodeAt(at + 2))] === 0) continue;
      }
      let next = this.#next[state]?.get(code);
      while (next === undefined && state !== 0) {
        state = this.#fail[state] ?? 0;
        next = this.#next[state]?.get(code);
      }
      state = next ?? 0;
      const pattern = this.#ends[state] ?? -1;
      if (pattern === -1) continue;
      const start = at + 1 - (this.#patterns[pattern]?.length ?? 0);
      if (best === undefined || start <= best.start) best = { start, end: at + 1, pattern };
    }
    return found;
  }

  /** How many characters lead to a state. */
  #depthOf(state: number): number {
    this.#depths ??= this.#measure();
    return this.#depths[state] ?? 0;
  }

  #measure(): number[] {
    const depths = this.#next.map(() => 0);
    const open = [0];
    for (let at = 0; at < open.length; at++) {
      const from = open[at] ?? 0;
      for (const child of this.#next[from]?.values() ?? []) {
        depths[child] = (depths[from] ?? 0) + 1;
        open.push(child);
      }
    }
    return depths;
  }
}
