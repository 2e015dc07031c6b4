import { type EpochMs, epochMs } from '../model';
import { asText, type Json } from './shape';

export interface Instant {
  readonly at: EpochMs;
  /** Minutes east of UTC as written; absent where the text names no zone. */
  readonly utcOffsetMinutes: number | undefined;
}

/** ISO 8601, extended or basic, with a zone's name in brackets behind it (RFC 9557) where there is one. */
const ISO =
  /^(\d{4})-?(\d\d)-?(\d\d)[T ](\d\d):?(\d\d):?(\d\d)(?:[.,](\d{1,12}))?\s*(Z|z|[+-]\d\d(?::?\d\d)?)?(?:\[[^\]]{1,60}\])?$/;
/** RFC 9110 5.6.7, as servers write it. */
const HTTP_DATE = /^[A-Z][a-z]{2}, \d\d [A-Z][a-z]{2} \d{4} \d\d:\d\d:\d\d GMT$/;
const NUMBER = /^-?\d+(?:\.\d+)?$/;
const IN_BRACES = /^\/?Date\((-?\d+)(?:[+-]\d{4})?\)\/?$/;

/** Numbers under this count seconds since 1970, others milliseconds: no recording is older than 2001 in ms. */
const MILLISECONDS_FROM = 1e11;
/** Seconds before this are of before 2001: a small number is a counter rather than an instant. */
const SECONDS_FROM = 9.7e8;
const DAY_MS = 86_400_000;

/**
 * Reads an instant: ISO 8601 as HAR writes it, keeping fractions finer than a millisecond, text without a zone as UTC; also
 * seconds or milliseconds since 1970, and HTTP's own dates. Undefined where it is none, or names a day that there is not:
 * what is written in a country's own order is not guessed at.
 */
export function readInstant(value: Json | undefined): Instant | undefined {
  if (typeof value === 'number') return sinceEpoch(value);
  const text = asText(value)?.trim();
  if (text === undefined) return undefined;
  const match = ISO.exec(text);
  if (match !== null) return readIso(match);
  if (HTTP_DATE.test(text)) {
    const parsed = Date.parse(text);
    return Number.isNaN(parsed) ? undefined : { at: epochMs(parsed), utcOffsetMinutes: 0 };
  }
  const braced = IN_BRACES.exec(text)?.[1];
  if (braced !== undefined) return { at: epochMs(Number(braced)), utcOffsetMinutes: undefined };
  return NUMBER.test(text) ? sinceEpoch(Number(text)) : undefined;
}

function sinceEpoch(number: number): Instant | undefined {
  if (!Number.isFinite(number) || number < SECONDS_FROM) return undefined;
  const at = number < MILLISECONDS_FROM ? number * 1000 : number;
  return isDate(at) ? { at: epochMs(at), utcOffsetMinutes: undefined } : undefined;
}

/** The instants that a Date can hold (ECMAScript 21.4.1.1). */
const isDate = (at: number): boolean => Math.abs(at) <= 8.64e15;

function readIso([, year, month, day, hour, minute, second, fraction, zone]: RegExpExecArray): Instant | undefined {
  const midnight = Date.UTC(Number(year), Number(month) - 1, Number(day));
  const isDay = new Date(midnight).getUTCDate() === Number(day) && Number(month) >= 1 && Number(month) <= 12;
  // A leap second is written 60; hour 24 is the end of the day (ISO 8601).
  const withinDayMs = ((Number(hour) * 60 + Number(minute)) * 60 + Number(second)) * 1000;
  if (!isDay || Number(minute) > 59 || Number(second) > 60 || withinDayMs > DAY_MS) return undefined;
  const utcOffsetMinutes = zone === undefined ? undefined : readOffset(zone);
  const fractionMs = fraction === undefined ? 0 : Number(`0.${fraction}`) * 1000;
  return { at: epochMs(midnight + withinDayMs + fractionMs - (utcOffsetMinutes ?? 0) * 60_000), utcOffsetMinutes };
}

function readOffset(zone: string): number {
  if (zone === 'Z' || zone === 'z') return 0;
  const minutes = Number(zone.slice(1, 3)) * 60 + (zone.length > 3 ? Number(zone.slice(-2)) : 0);
  return zone.startsWith('-') ? -minutes : minutes;
}
