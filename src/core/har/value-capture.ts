import { ValueScanner, type ValueType } from './value-scanner';

/** A JSON value that may stretch over chunks: the bytes of it that came so far, and how far the scan is in it. */
export class ValueCapture {
  readonly #scanner = new ValueScanner();
  #type: ValueType | undefined;
  #pieces: Uint8Array[] = [];
  #bytes = 0;
  #atByte = 0;

  /** What is being captured; undefined between values. */
  get type(): ValueType | undefined {
    return this.#type;
  }

  /** The bytes of it in earlier chunks. */
  get byteLength(): number {
    return this.#bytes;
  }

  /** Where in the file it begins. */
  get atByte(): number {
    return this.#atByte;
  }

  /** How deep it nests, as far as it was scanned. */
  get deepest(): number {
    return this.#scanner.deepest;
  }

  /** Everything of it that came so far. */
  get pending(): Uint8Array {
    return this.#join(new Uint8Array());
  }

  begin(type: ValueType, atByte: number): void {
    this.#type = type;
    this.#pieces = [];
    this.#bytes = 0;
    this.#atByte = atByte;
    this.#scanner.begin(type);
  }

  /**
   * Goes on in a chunk.
   * @param pieceFrom where the value's bytes begin in it
   * @param from where the scan goes on in it
   * @returns the whole value and where it ends; undefined where the chunk ends first
   */
  take(
    chunk: Uint8Array,
    pieceFrom: number,
    from: number,
  ): { readonly bytes: Uint8Array; readonly end: number } | undefined {
    const end = this.#scanner.findEnd(chunk, from);
    if (end !== -1) {
      const last = chunk.subarray(pieceFrom, end);
      return { bytes: this.#pieces.length === 0 ? last : this.#join(last), end };
    }
    // A copy: the caller may use the chunk again. (A Buffer's own slice would not copy.)
    this.#pieces.push(new Uint8Array(chunk.subarray(pieceFrom)));
    this.#bytes += chunk.length - pieceFrom;
    return undefined;
  }

  /** Lets the value go. */
  end(): void {
    this.#type = undefined;
    this.#pieces = [];
  }

  #join(last: Uint8Array): Uint8Array {
    const joined = new Uint8Array(this.#bytes + last.length);
    let at = 0;
    for (const piece of this.#pieces) {
      joined.set(piece, at);
      at += piece.length;
    }
    joined.set(last, at);
    return joined;
  }
}
