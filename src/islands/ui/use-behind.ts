import { useDeferredValue } from 'react';

/** What is made of more exchanges than these takes long enough to be waited for. */
const MANY = 20_000;

/**
 * A list from which something is computed that what is drawn first can do without: of very many exchanges it is empty at
 * first, and has them once the rest stands. Later on it follows as soon as there is time.
 */
export const useBehind = <T>(list: readonly T[]): readonly T[] =>
  useDeferredValue(list, list.length > MANY ? (NONE as readonly T[]) : list);

const NONE: readonly unknown[] = [];
