/** What was used lately, as many bytes of it as are allowed: what was not used for longest goes first. */
export class KeptLately<K, V> {
  readonly #mostBytes: number;
  readonly #items = new Map<K, { readonly value: V; readonly bytes: number }>();
  #bytes = 0;

  constructor(mostBytes: number) {
    this.#mostBytes = mostBytes;
  }

  /** What is kept under a key, or is made now. `sizeOf` tells how much room it takes. */
  get(key: K, make: () => V, sizeOf: (value: V) => number): V {
    const there = this.#items.get(key);
    if (there !== undefined) {
      this.#items.delete(key);
      this.#items.set(key, there);
      return there.value;
    }
    const value = make();
    const bytes = sizeOf(value);
    this.#items.set(key, { value, bytes });
    this.#bytes += bytes;
    for (const [old, item] of this.#items) {
      if (this.#bytes <= this.#mostBytes || this.#items.size === 1) break;
      this.#items.delete(old);
      this.#bytes -= item.bytes;
    }
    return value;
  }
}
