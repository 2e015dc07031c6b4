// What lists are put in order by, whatever stands in them.

export { TextPool } from './text-pool';

/** Items by a key, in the order in which keys first come; items without a key are left out. */
export function groupBy<T, K>(items: Iterable<T>, keyOf: (item: T) => K | undefined): Map<K, [T, ...T[]]> {
  const groups = new Map<K, [T, ...T[]]>();
  for (const item of items) {
    const key = keyOf(item);
    if (key !== undefined) addTo(groups, key, item);
  }
  return groups;
}

/** Puts an item into the group of a key, which it may be the first of. */
export function addTo<T, K>(groups: Map<K, T[]>, key: K, item: T): void {
  const group = groups.get(key);
  if (group === undefined) groups.set(key, [item]);
  else group.push(item);
}
