import { type EpochMs, epochMs } from '../model';

export interface Instant {
  readonly at: EpochMs;
  /** Minutes east of UTC as written; absent where the text names no zone. */
  readonly utcOffsetMinutes: number | undefined;
}

const ISO = /^(\d{4})-(\d\d)-(\d\d)[T ](\d\d):(\d\d):(\d\d)(?:[.,](\d{1,12}))?\s*(Z|z|[+-]\d\d:?\d\d)?$/;

/**
 * Reads an ISO 8601 instant as HAR writes it, keeping fractions finer than a millisecond. Text without a zone counts
 * as UTC. Undefined where it is no instant.
 */
export function readInstant(text: string | undefined): Instant | undefined {
  if (text === undefined) return undefined;
  const match = ISO.exec(text.trim());
  if (match === null) {
    const parsed = Date.parse(text);
    return Number.isNaN(parsed) ? undefined : { at: epochMs(parsed), utcOffsetMinutes: undefined };
  }
  const [, year, month, day, hour, minute, second, fraction, zone] = match;
  const whole = Date.UTC(Number(year), Number(month) - 1, Number(day), Number(hour), Number(minute), Number(second));
  const utcOffsetMinutes = zone === undefined ? undefined : readOffset(zone);
  const fractionMs = fraction === undefined ? 0 : Number(`0.${fraction}`) * 1000;
  return { at: epochMs(whole + fractionMs - (utcOffsetMinutes ?? 0) * 60_000), utcOffsetMinutes };
}

function readOffset(zone: string): number {
  if (zone === 'Z' || zone === 'z') return 0;
  const minutes = Number(zone.slice(1, 3)) * 60 + Number(zone.slice(-2));
  return zone.startsWith('-') ? -minutes : minutes;
}
