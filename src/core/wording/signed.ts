import { formatBytes, formatMs } from './format';

/** A difference in ms with its sign: "+31 ms", "−1.49 s", "±0". From 10 ms on rounded to whole ms first, as steps that add up are. */
export function signedMs(ms: number): string {
  const told = Math.abs(ms) >= 10 ? Math.round(ms) : Math.round(ms * 10) / 10;
  return told === 0 ? '±0' : told > 0 ? `+${formatMs(told)}` : formatMs(told);
}

/** The same of whole ms: "+7 ms". */
export const signedWholeMs = (ms: number): string =>
  ms !== 0 && Math.abs(ms) < 10 ? `${ms > 0 ? '+' : '−'}${Math.abs(ms)} ms` : signedMs(ms);

export const signedBytes = (bytes: number): string =>
  bytes === 0 ? '±0' : `${bytes > 0 ? '+' : '−'}${formatBytes(Math.abs(bytes))}`;
