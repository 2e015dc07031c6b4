/**
 * Writes a value that changes often: one write after the other, so that none overtakes another, and of those that wait only
 * the latest.
 */
export class LatestWriter<T> {
  readonly #write: (value: T) => Promise<unknown>;
  #waiting: { readonly value: T } | undefined;
  #writing: Promise<void> | undefined;

  constructor(write: (value: T) => Promise<unknown>) {
    this.#write = write;
  }

  put(value: T): void {
    this.#waiting = { value };
    this.#writing ??= this.#run();
  }

  /** Until everything that was put is written, or has failed to be. */
  async settled(): Promise<void> {
    await this.#writing;
  }

  async #run(): Promise<void> {
    while (this.#waiting !== undefined) {
      const { value } = this.#waiting;
      this.#waiting = undefined;
      // A write that failed is told by whoever writes; the next one has all that it had.
      await this.#write(value).catch(() => undefined);
    }
    this.#writing = undefined;
  }
}
