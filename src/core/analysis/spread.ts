/** How measures spread. Percentiles are by nearest rank, and only of five values and more; fewer are told one by one. */
export type Spread =
  | {
      readonly type: 'percentiles';
      readonly count: number;
      readonly median: number;
      readonly p95: number;
      readonly max: number;
    }
  | { readonly type: 'values'; readonly values: readonly number[] };

const PERCENTILES_FROM = 5;

/** The spread of measures, unknown ones left out; values in rising order. */
export function spreadOf(measures: readonly (number | undefined)[]): Spread {
  const values = measures.filter((value) => value !== undefined).sort((a, b) => a - b);
  if (values.length < PERCENTILES_FROM) return { type: 'values', values };
  return {
    type: 'percentiles',
    count: values.length,
    median: nearestRank(values, 0.5),
    p95: nearestRank(values, 0.95),
    max: values.at(-1) ?? 0,
  };
}

/** The smallest value that at least this share of the values does not exceed. Values in rising order, at least one. */
function nearestRank(values: readonly number[], share: number): number {
  return values[Math.max(0, Math.ceil(share * values.length) - 1)] ?? 0;
}

/** The value that stands for the whole spread in an order; unknown where there is none. */
export function middleOf(spread: Spread): number | undefined {
  if (spread.type === 'percentiles') return spread.median;
  return spread.values[Math.max(0, Math.ceil(spread.values.length / 2) - 1)];
}
