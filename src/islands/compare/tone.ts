/** The tone of a difference: less is green, more crimson; the sign says the same without colour. */
export const toneOf = (difference: number): string =>
  difference === 0 ? 'text-soft' : difference < 0 ? 'text-cached' : 'text-failed';
