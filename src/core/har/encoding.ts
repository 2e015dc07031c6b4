/** The encodings that JSON files come in (RFC 8259 8.1 asks for UTF-8; some recorders' exports are UTF-16). */
type Encoding = 'utf-8' | 'utf-16le' | 'utf-16be';

const OPENERS = new Set([0x7b, 0x5b]);

/** The encoding by byte order mark, else by where the first bracket's zero byte stands; UTF-8 where nothing says else. */
function detectEncoding(first: number | undefined, second: number | undefined): Encoding {
  if (first === 0xff && second === 0xfe) return 'utf-16le';
  if (first === 0xfe && second === 0xff) return 'utf-16be';
  if (first === 0 && OPENERS.has(second ?? -1)) return 'utf-16be';
  return second === 0 && OPENERS.has(first ?? -1) ? 'utf-16le' : 'utf-8';
}

/** Passes UTF-8 on as it is and turns UTF-16 into it, a chunk at a time. */
export class Utf8Stream {
  readonly #onChunk: (chunk: Uint8Array) => void;
  readonly #encoder = new TextEncoder();
  #held: Uint8Array = new Uint8Array();
  #decoder: TextDecoder | undefined;
  #encoding: Encoding | undefined;

  constructor(onChunk: (chunk: Uint8Array) => void) {
    this.#onChunk = onChunk;
  }

  push(chunk: Uint8Array): void {
    if (this.#encoding !== undefined) {
      this.#pass(chunk);
      return;
    }
    const start = this.#held.length === 0 ? chunk : joinTwo(this.#held, chunk);
    if (start.length < 2) {
      this.#held = new Uint8Array(start);
      return;
    }
    this.#begin(start);
  }

  end(): void {
    if (this.#encoding === undefined) this.#begin(this.#held);
    const last = this.#decoder?.decode();
    if (last !== undefined && last !== '') this.#onChunk(this.#encoder.encode(last));
  }

  #begin(start: Uint8Array): void {
    this.#encoding = detectEncoding(start[0], start[1]);
    if (this.#encoding !== 'utf-8') this.#decoder = new TextDecoder(this.#encoding);
    if (start.length > 0) this.#pass(start);
  }

  #pass(chunk: Uint8Array): void {
    if (this.#decoder === undefined) this.#onChunk(chunk);
    else this.#onChunk(this.#encoder.encode(this.#decoder.decode(chunk, { stream: true })));
  }
}

/** Two runs of bytes as one. */
export function joinTwo(a: Uint8Array, b: Uint8Array): Uint8Array {
  if (a.length === 0) return b;
  const joined = new Uint8Array(a.length + b.length);
  joined.set(a);
  joined.set(b, a.length);
  return joined;
}
