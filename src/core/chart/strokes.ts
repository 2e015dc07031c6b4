/** Two strokes that stand closer look like one. */
const STEPS_A_PX = 2;

/**
 * The places of strokes, in px: as many as can be told apart, however many values there are.
 * @param values in the order in which the places are given; those that are unknown have none
 * @param pxOf where a value lies
 */
export function strokesAt(values: readonly (number | undefined)[], pxOf: (value: number) => number): Set<number> {
  const places = new Set<number>();
  for (const value of values) if (value !== undefined) places.add(Math.round(pxOf(value) * STEPS_A_PX) / STEPS_A_PX);
  return places;
}
