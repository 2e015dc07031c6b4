/** Ends a run: at first nothing more is sent, then what is under way is broken off. */
export class Halt {
  readonly #sending = new AbortController();
  readonly #waiting = new AbortController();

  /** Nothing more is to be sent. */
  get isAsked(): boolean {
    return this.#sending.signal.aborted;
  }

  /** Aborted once nothing more is to be sent. */
  get sending(): AbortSignal {
    return this.#sending.signal;
  }

  /** Aborted once nothing is waited for any more. */
  get waiting(): AbortSignal {
    return this.#waiting.signal;
  }

  /**
   * Has nothing more sent.
   * @param graceMs what was sent already is waited for so long: the server may have done it, and would do it twice if it were
   *   sent again
   */
  ask(graceMs: number): void {
    this.#sending.abort();
    if (graceMs === 0) this.#waiting.abort();
    else setTimeout(() => this.#waiting.abort(), graceMs).unref();
  }
}
