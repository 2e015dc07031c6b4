/** The middle value: of an even number the mean of the two in the middle. Undefined of none. */
export function medianOf(values: readonly number[]): number | undefined {
  const sorted = values.toSorted((a, b) => a - b);
  const [low, high] = [sorted[(sorted.length - 1) >> 1], sorted[sorted.length >> 1]];
  return low === undefined || high === undefined ? undefined : (low + high) / 2;
}

/** Of fewer loads a side drawing again tells nothing of how loads vary. */
const LEAST_LOADS = 3;
const DRAWS = 2000;
const SEED = 20_261;
/** Of fewer on a side the interval holds the real difference less often than it says: three 90 times in a hundred, four 93. */
export const LOADS_FOR_95 = 5;
/** 95 % of the draws lie between. */
const OUTSIDE = 0.025;

export interface Interval {
  readonly fromMs: number;
  readonly toMs: number;
}

/**
 * The 95 % interval of the difference of two medians, B's less A's, by the bootstrap: 2,000 draws with replacement of each
 * side's values, percentile method. Always the same for the same values, in whatever order. Undefined with fewer than three values a side.
 */
export function intervalOf(a: readonly number[], b: readonly number[]): Interval | undefined {
  if (a.length < LEAST_LOADS || b.length < LEAST_LOADS) return undefined;
  const [own, other] = [keyOf(a), keyOf(b)];
  if (own > other) {
    // The sides exchanged give the same with its signs turned.
    const { fromMs, toMs } = intervalOf(b, a) ?? { fromMs: 0, toMs: 0 };
    return { fromMs: -toMs, toMs: -fromMs };
  }
  const random = randomFrom(SEED);
  const [drawA, drawB] = [drawerOf(a, random), drawerOf(b, random)];
  const differences = Float64Array.from({ length: DRAWS }, () => drawB() - drawA()).sort();
  const at = (share: number): number => differences[Math.min(DRAWS - 1, Math.floor(share * DRAWS))] ?? 0;
  return { fromMs: at(OUTSIDE), toMs: at(1 - OUTSIDE) };
}

/** Fewer are put in order one by one sooner than the engine begins to. */
const FEW = 40;

/** Draws as many of the values as there are, with replacement, and gives their median: thousands of times, so always in the same room. */
function drawerOf(values: readonly number[], random: () => number): () => number {
  const count = values.length;
  // In order: the loads of a side are its loads however they are listed.
  const ordered = Float64Array.from(values).sort();
  const drawn = new Float64Array(count);
  const [low, high] = [(count - 1) >> 1, count >> 1];
  return () => {
    for (let at = 0; at < count; at++) {
      const value = ordered[Math.floor(random() * count)] ?? 0;
      let to = at;
      for (; count <= FEW && to > 0 && (drawn[to - 1] ?? 0) > value; to--) drawn[to] = drawn[to - 1] ?? 0;
      drawn[to] = value;
    }
    if (count > FEW) drawn.sort();
    return ((drawn[low] ?? 0) + (drawn[high] ?? 0)) / 2;
  };
}

const keyOf = (values: readonly number[]): string => values.toSorted((a, b) => a - b).join(' ');

/** An interval that holds 0 cannot be told from chance. */
export const holdsZero = ({ fromMs, toMs }: Interval): boolean => fromMs <= 0 && toMs >= 0;

/** Numbers in [0, 1) that look drawn, always the same from the same seed (mulberry32). */
function randomFrom(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  };
}
