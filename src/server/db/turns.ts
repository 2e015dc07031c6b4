/** How long who holds the database gives way: those that wait look whether it is free every few milliseconds. */
const GIVES_WAY_MS = 250;

/**
 * Those that wait for the database while a thread of this process holds it: one that writes for long lets them in between.
 * Its buffer is shared with that thread.
 */
export class Turns {
  readonly buffer: SharedArrayBuffer;
  readonly #waiting: Int32Array;

  constructor(buffer = new SharedArrayBuffer(4)) {
    this.buffer = buffer;
    this.#waiting = new Int32Array(buffer);
  }

  get areWaited(): boolean {
    return Atomics.load(this.#waiting, 0) > 0;
  }

  begin(): void {
    Atomics.add(this.#waiting, 0, 1);
  }

  end(): void {
    Atomics.sub(this.#waiting, 0, 1);
    Atomics.notify(this.#waiting, 0);
  }

  /** Holds this thread up until nobody waits, or for a moment at most. Not for the thread that answers requests. */
  giveWay(): void {
    const until = performance.now() + GIVES_WAY_MS;
    for (;;) {
      const count = Atomics.load(this.#waiting, 0);
      const leftMs = until - performance.now();
      if (count === 0 || leftMs <= 0) return;
      Atomics.wait(this.#waiting, 0, count, leftMs);
    }
  }
}
