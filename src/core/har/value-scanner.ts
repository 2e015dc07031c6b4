import { BACKSLASH, CLOSE_BRACE, CLOSE_BRACKET, COMMA, isSpace, OPEN_BRACE, OPEN_BRACKET, QUOTE } from './grammar';

export type ValueType = 'key' | 'container' | 'string' | 'scalar';

/** Strings up to this many bytes are walked byte by byte; longer ones are searched for their quote, which is faster. */
const SHORT_STRING_BYTES = 24;

/** Finds where a JSON value ends that may stretch over chunks of bytes, by its brackets and quotes alone. */
export class ValueScanner {
  #type: ValueType = 'scalar';
  #depth = 0;
  #deepest = 0;
  #inString = false;
  #escaped = false;

  /** How deep the value nests, as far as it was scanned. */
  get deepest(): number {
    return this.#deepest;
  }

  /** Begins a value; its first byte, but for a scalar's, is behind the scanner. */
  begin(type: ValueType): void {
    this.#type = type;
    this.#depth = type === 'container' ? 1 : 0;
    this.#deepest = this.#depth;
    this.#inString = type === 'key' || type === 'string';
    this.#escaped = false;
  }

  /** Past the value's last byte, or -1 where the chunk ends first. */
  findEnd(chunk: Uint8Array, from: number): number {
    return this.#type === 'scalar' ? this.#scalarEnd(chunk, from) : this.#nestedEnd(chunk, from);
  }

  #scalarEnd(chunk: Uint8Array, from: number): number {
    for (let at = from; at < chunk.length; at++) {
      const byte = chunk[at] as number;
      if (byte === COMMA || byte === CLOSE_BRACE || byte === CLOSE_BRACKET || isSpace(byte)) return at;
    }
    return -1;
  }

  /** The hot loop: past the end of a string or a bracketed value, or -1 where the chunk ends first. */
  #nestedEnd(chunk: Uint8Array, from: number): number {
    const length = chunk.length;
    let at = from;
    let depth = this.#depth;
    let deepest = this.#deepest;
    if (this.#inString) {
      at = this.#stringEnd(chunk, at);
      if (at === -1) return -1;
      if (depth === 0) return at;
    }
    while (at < length) {
      const byte = chunk[at++] as number;
      if (byte === QUOTE) {
        at = this.#stringEnd(chunk, at);
        if (at === -1) {
          this.#depth = depth;
          this.#deepest = deepest;
          return -1;
        }
      } else if (byte === OPEN_BRACE || byte === OPEN_BRACKET) {
        depth++;
        if (depth > deepest) deepest = depth;
      } else if (byte === CLOSE_BRACE || byte === CLOSE_BRACKET) {
        depth--;
        if (depth > 0) continue;
        this.#deepest = deepest;
        return at;
      }
    }
    this.#depth = depth;
    this.#deepest = deepest;
    return -1;
  }

  /** Past the closing quote of the string that `from` stands in, or -1 where the chunk ends first. */
  #stringEnd(chunk: Uint8Array, from: number): number {
    let at = this.#escaped ? from + 1 : from;
    this.#escaped = false;
    const nearEnd = Math.min(chunk.length, at + SHORT_STRING_BYTES);
    while (at < nearEnd) {
      const byte = chunk[at] as number;
      if (byte === QUOTE) {
        this.#inString = false;
        return at + 1;
      }
      at += byte === BACKSLASH ? 2 : 1;
    }
    while (at < chunk.length) {
      const quote = chunk.indexOf(QUOTE, at);
      let before = (quote === -1 ? chunk.length : quote) - 1;
      while (before >= at && chunk[before] === BACKSLASH) before--;
      const backslashes = (quote === -1 ? chunk.length : quote) - 1 - before;
      if (quote === -1) {
        at = chunk.length + (backslashes % 2);
        break;
      }
      if (backslashes % 2 === 0) {
        this.#inString = false;
        return quote + 1;
      }
      at = quote + 1;
    }
    this.#inString = true;
    this.#escaped = at > chunk.length;
    return -1;
  }
}
