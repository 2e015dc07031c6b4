import { addTo } from '../collections';

/** From so many pairs of equal items on, which pair of many alike is taken no longer matters: they are paired in turn. */
const MOST_PAIRS = 2_000_000;

/**
 * The longest common subsequence of two lists of texts, as pairs of places in rising order. After J. W. Hunt and T. G.
 * Szymanski: O((r + n) log n) with r pairs of equal items; with more than two million of these a common subsequence that
 * need not be the longest.
 */
export function longestCommon(a: readonly string[], b: readonly string[]): (readonly [number, number])[] {
  const places = new Map<string, number[]>();
  for (const [at, text] of b.entries()) addTo(places, text, at);
  const pairs = a.reduce((sum, text) => sum + (places.get(text)?.length ?? 0), 0);
  if (pairs > MOST_PAIRS) return inTurn(a, places);
  // The least end in b of a common subsequence of each length, and the chain that ends there.
  const ends: number[] = [];
  const chains: Chain[] = [];
  a.forEach((text, atA) => {
    const own = places.get(text) ?? [];
    for (let at = own.length - 1; at >= 0; at--) {
      const atB = own[at] ?? 0;
      const length = firstNotBelow(ends, atB);
      if (ends[length] === atB) continue;
      ends[length] = atB;
      chains[length] = { atA, atB, before: chains[length - 1] };
    }
  });
  const found: (readonly [number, number])[] = [];
  for (let chain = chains.at(-1); chain !== undefined; chain = chain.before) found.push([chain.atA, chain.atB]);
  return found.reverse();
}

interface Chain {
  readonly atA: number;
  readonly atB: number;
  readonly before: Chain | undefined;
}

/** The first place of rising numbers whose number is not below a value. */
function firstNotBelow(rising: readonly number[], value: number): number {
  let [from, to] = [0, rising.length];
  while (from < to) {
    const middle = (from + to) >> 1;
    if ((rising[middle] ?? 0) < value) from = middle + 1;
    else to = middle;
  }
  return from;
}

/** Each item with the next of the same text behind the last pair. */
function inTurn(a: readonly string[], places: ReadonlyMap<string, readonly number[]>): (readonly [number, number])[] {
  const found: (readonly [number, number])[] = [];
  let after = -1;
  a.forEach((text, atA) => {
    const own = places.get(text) ?? [];
    const atB = own[firstNotBelow(own, after + 1)];
    if (atB === undefined) return;
    found.push([atA, atB]);
    after = atB;
  });
  return found;
}
