/** How many items of a list in ascending order have a value of at most so much. */
export function countUpTo<T>(sorted: readonly T[], measure: (item: T) => number, most: number): number {
  let low = 0;
  let high = sorted.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    const item = sorted[middle];
    if (item !== undefined && measure(item) <= most) low = middle + 1;
    else high = middle;
  }
  return low;
}
