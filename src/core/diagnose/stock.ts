import type { CachePolicy } from '../cache';
import { TextPool } from '../collections';

/** Longer values are hardly ever the same. */
const MOST_CHARS = 400;

/**
 * Keeps what many exchanges have alike once: each reading makes its own, and a capture of a hundred thousand exchanges has
 * a few dozen policies and few values of most headers.
 */
export class Stock {
  readonly #texts = new TextPool();
  readonly #policies = new Map<string, CachePolicy>();

  text(value: string): string {
    return value.length > MOST_CHARS ? value : this.#texts.one(value);
  }

  policy(policy: CachePolicy | undefined): CachePolicy | undefined {
    if (policy === undefined) return undefined;
    const key = JSON.stringify(policy);
    const known = this.#policies.get(key);
    if (known === undefined) this.#policies.set(key, policy);
    return known ?? policy;
  }
}
