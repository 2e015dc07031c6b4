/** Recorders write starts in whole ms: an answer may seem to come this much after what it led to. */
export const CLOCK_RESOLUTION_MS = 1;
