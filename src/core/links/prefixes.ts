/** Items by a text of theirs, found by its beginning in logarithmic time. */
export class Prefixes<T> {
  readonly #sorted: readonly { readonly text: string; readonly item: T }[];

  constructor(items: readonly T[], textOf: (item: T) => string) {
    this.#sorted = items
      .map((item) => ({ text: textOf(item), item }))
      .sort((a, b) => (a.text < b.text ? -1 : a.text > b.text ? 1 : 0));
  }

  /** Those whose text begins so, in the order of their texts. */
  *startingWith(prefix: string): Generator<T> {
    let low = 0;
    let high = this.#sorted.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.#sorted[middle]?.text ?? '') < prefix) low = middle + 1;
      else high = middle;
    }
    for (let at = low; at < this.#sorted.length; at++) {
      const found = this.#sorted[at];
      if (found === undefined || !found.text.startsWith(prefix)) return;
      yield found.item;
    }
  }
}
