/** A time limit as a whole number of ms. */
export const limitMs = (limitS: number): number => Math.max(1, Math.round(limitS * 1000));

/** A time limit for a client whose durations are whole numbers: in seconds where it is some, else in ms. */
export const wholeLimit = (
  limitS: number,
  inSeconds: (seconds: number) => string,
  inMs: (ms: number) => string,
): string => (Number.isInteger(limitS) ? inSeconds(limitS) : inMs(limitMs(limitS)));
