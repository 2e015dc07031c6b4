/** How many items of a list in ascending order have a value of at most so much. */
export const countUpTo = <T>(sorted: readonly T[], measure: (item: T) => number, most: number): number =>
  countWhile(sorted, (item) => measure(item) <= most);

/** How many items come first of which something holds, in a list whose others come behind them all. */
export function countWhile<T>(sorted: ArrayLike<T>, holds: (item: T) => boolean): number {
  let low = 0;
  let high = sorted.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    const item = sorted[middle];
    if (item !== undefined && holds(item)) low = middle + 1;
    else high = middle;
  }
  return low;
}
