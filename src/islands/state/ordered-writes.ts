/** Writes something; `isLeaving` where the page may be gone before the answer comes. Problems are its own to tell. */
export type Write = (isLeaving: boolean) => Promise<unknown>;

/**
 * Writes to the server of what is shown at once: one after the other, so that none overtakes another, and of those that wait
 * under one key only the latest.
 */
export class OrderedWrites {
  readonly #waiting = new Map<string, Write>();
  #current: readonly [string, Write] | undefined;
  #running: Promise<void> | undefined;

  put(key: string, write: Write): void {
    this.#waiting.delete(key);
    this.#waiting.set(key, write);
    this.#running ??= this.#run();
  }

  /** How many have no answer yet. */
  get unanswered(): number {
    return this.#waiting.size + (this.#current === undefined ? 0 : 1);
  }

  /** Until all that was put is written, or has failed to be. */
  async settled(): Promise<void> {
    await this.#running;
  }

  /**
   * Where the page is left, writes all at once that has no answer yet: what was begun ends with the page, and what waits would
   * never begin.
   * @param later what its owner would have put later
   */
  leave(later: Iterable<readonly [string, Write]> = []): void {
    const left = new Map([...(this.#current === undefined ? [] : [this.#current]), ...this.#waiting, ...later]);
    this.#waiting.clear();
    this.#current = undefined;
    for (const write of left.values()) write(true).catch(() => undefined);
  }

  async #run(): Promise<void> {
    for (let next = this.#next(); next !== undefined; next = this.#next()) {
      this.#current = next;
      await next[1](false).catch(() => undefined);
    }
    this.#running = undefined;
  }

  #next(): readonly [string, Write] | undefined {
    this.#current = undefined;
    const [next] = this.#waiting;
    if (next !== undefined) this.#waiting.delete(next[0]);
    return next;
  }
}
