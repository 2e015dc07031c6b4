import type { CachePolicy } from '../cache';

/** Longer values are hardly ever the same. */
const MOST_CHARS = 400;

/**
 * Keeps what many exchanges have alike once: each reading makes its own, and a capture of a hundred thousand exchanges has
 * a few dozen policies and few values of most headers.
 */
export class Stock {
  readonly #texts = new Map<string, string>();
  readonly #policies = new Map<string, CachePolicy>();

  text(value: string): string {
    if (value.length > MOST_CHARS) return value;
    return kept(this.#texts, value, value);
  }

  policy(policy: CachePolicy | undefined): CachePolicy | undefined {
    return policy === undefined ? undefined : kept(this.#policies, JSON.stringify(policy), policy);
  }
}

function kept<Value>(known: Map<string, Value>, key: string, value: Value): Value {
  const before = known.get(key);
  if (before !== undefined) return before;
  known.set(key, value);
  return value;
}
