import type { StripOrder } from './layout';
import { MEASURE_IDS, MEASURES } from './measures';

/** The orders of strips with their words. */
export const STRIP_ORDERS: readonly (readonly [StripOrder, string])[] = [
  ['start', 'start'],
  ['end', 'end'],
  ...MEASURE_IDS.map((id) => [id, MEASURES[id].label] as const),
];

export const findOrder = (asked: string | undefined): StripOrder =>
  STRIP_ORDERS.find(([id]) => id === asked)?.[0] ?? 'start';
