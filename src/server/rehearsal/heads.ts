import type { Socket } from 'node:net';

const END_OF_HEAD = Buffer.from('\r\n\r\n');
/** Longer heads the parser refuses. */
const MOST_BYTES = 128 * 1024;

/**
 * The heads of the requests on a connection, as they arrived: Node's parser gives names and values, not the bytes. Of what
 * stands between two heads only as much is looked at as is needed to find the next one.
 */
export class Heads {
  #seen = Buffer.alloc(0);
  /** Bytes of a payload that are still to come, by its length; undefined where it comes in chunks. */
  #skip = 0;
  #isChunked = false;

  /** Listens before the parser does. */
  listen(socket: Socket): void {
    socket.prependListener('data', (chunk: Buffer) => this.#add(chunk));
  }

  /** The head of the request that the parser has just told of, one character a byte; empty where it was lost sight of. */
  take(method: string | undefined, contentLength: string | undefined, isChunked: boolean): string {
    const start = this.#startOf(method ?? '');
    const end = start === -1 ? -1 : this.#seen.indexOf(END_OF_HEAD, start);
    if (end === -1) return '';
    const head = this.#seen.toString('latin1', start, end);
    this.#seen = this.#seen.subarray(end + END_OF_HEAD.length);
    this.#skip = isChunked ? 0 : Number(contentLength ?? 0);
    this.#isChunked = isChunked;
    this.#drop();
    return head;
  }

  /** What came of a request that never became one. */
  rest(): string {
    return this.#seen.toString('latin1', 0, 2000);
  }

  #add(chunk: Buffer): void {
    if (this.#seen.length === 0 && this.#skip >= chunk.length) {
      this.#skip -= chunk.length;
      return;
    }
    // The chunks of a payload are looked through for nothing: the next head begins behind them, wherever that is.
    const isFull = this.#isChunked && this.#seen.length > MOST_BYTES;
    this.#seen = isFull
      ? Buffer.concat([this.#seen.subarray(-MOST_BYTES / 2), chunk])
      : Buffer.concat([this.#seen, chunk]);
    this.#drop();
  }

  #drop(): void {
    const gone = Math.min(this.#skip, this.#seen.length);
    if (gone === 0) return;
    this.#seen = this.#seen.subarray(gone);
    this.#skip -= gone;
  }

  /** Behind chunks the head is where the method stands at the beginning of a line. */
  #startOf(method: string): number {
    if (!this.#isChunked) {
      let start = 0;
      while (this.#seen[start] === 0x0d || this.#seen[start] === 0x0a) start++;
      return start;
    }
    const at = this.#seen.lastIndexOf(`\r\n${method} `);
    return at === -1 ? (this.#seen.indexOf(`${method} `) === 0 ? 0 : -1) : at + 2;
  }
}
