import type { ExchangeRow } from './exchange-row';

/** Over fewer bytes and shorter downloads a throughput says nothing: both are within what clocks and packets round to. */
const LEAST_BYTES = 10_000;
const LEAST_MS = 10;

/** The speed of a download in wire bytes a ms; undefined where too little came, or too fast, to tell. */
export function throughputOf({ wireBytes, phases }: Pick<ExchangeRow, 'wireBytes' | 'phases'>): number | undefined {
  const { receiveMs } = phases;
  return wireBytes === undefined || receiveMs === undefined || wireBytes < LEAST_BYTES || receiveMs < LEAST_MS
    ? undefined
    : wireBytes / receiveMs;
}
