/** Keeps each text once: reading makes a new one for every exchange, and a large capture has a hundred thousand. */
export class TextPool {
  readonly #texts = new Map<string, string>();

  one(text: string): string {
    const known = this.#texts.get(text);
    if (known !== undefined) return known;
    this.#texts.set(text, text);
    return text;
  }
}
