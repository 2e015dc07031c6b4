import type { Named } from './named';

/** What a body names, and the base that it sets for that. */
export interface BodyLinks {
  readonly named: readonly Named[];
  readonly base: string | undefined;
}

/** Room for what is remembered: so many characters as JSON. */
const MOST_CHARS = 20_000_000;

/** What bodies name, by what tells a body from others: the same body in another capture is not read again. */
export class KnownBodies {
  readonly #known = new Map<string, BodyLinks>();
  #chars = 0;

  of(key: string, read: () => BodyLinks): BodyLinks {
    const known = this.#known.get(key);
    if (known !== undefined) return known;
    const links = read();
    // A copy: what is cut out of a text keeps the whole of it.
    const json = JSON.stringify(links);
    this.#chars += json.length;
    if (this.#chars <= MOST_CHARS) this.#known.set(key, JSON.parse(json) as BodyLinks);
    return links;
  }
}
