/** A length of time: under 10 ms one decimal, under 1 s whole ms, then s with two decimals. Unknown reads "unknown". */
export function formatMs(ms: number | undefined): string {
  if (ms === undefined) return 'unknown';
  const length = Math.abs(ms);
  const sign = ms <= -0.05 ? '−' : '';
  if (length === 0) return '0 ms';
  if (length < 9.95) return `${sign}${length.toFixed(1)} ms`;
  if (length < 999.5) return `${sign}${Math.round(length)} ms`;
  return `${sign}${(length / 1000).toFixed(2)} s`;
}

const BYTE_UNITS = ['kB', 'MB', 'GB', 'TB'] as const;

/** An amount of bytes in SI units (1 kB = 1,000 B). Unknown reads "unknown". */
export function formatBytes(bytes: number | undefined): string {
  if (bytes === undefined) return 'unknown';
  if (bytes < 1000) return `${Math.round(bytes)} B`;
  let amount = bytes;
  for (const unit of BYTE_UNITS) {
    amount /= 1000;
    // 999.5 kB would round to 1000 kB: it is shown in the next unit instead.
    if (amount < 9.95) return `${amount.toFixed(1)} ${unit}`;
    if (amount < 999.5 || unit === 'TB') return `${Math.round(amount)} ${unit}`;
  }
  return `${Math.round(amount)} TB`;
}

/** Bytes in full with grouped digits, for hovering: "1,234,567 B". */
export const formatExactBytes = (bytes: number | undefined): string =>
  bytes === undefined ? 'unknown' : `${formatCount(bytes)} B`;

/** A count with its digits in groups of three. */
export const formatCount = (count: number): string => String(count).replace(/\B(?=(\d{3})+(?!\d))/g, ',');

/** A share from 0 to 1 in whole per cent. */
export const formatShare = (share: number | undefined): string =>
  share === undefined ? 'unknown' : `${Math.round(share * 100)} %`;

/** Whole per cents of what amounts make up together, which come to 100: the largest rests are rounded up. */
export function wholeShares(amounts: readonly number[]): number[] {
  const whole = amounts.reduce((sum, amount) => sum + amount, 0);
  if (whole <= 0) return amounts.map(() => 0);
  const exact = amounts.map((amount) => (amount / whole) * 100);
  const floors = exact.map(Math.floor);
  const missing = 100 - floors.reduce((sum, share) => sum + share, 0);
  const byRest = exact.map((share, at) => ({ at, rest: share - Math.floor(share) })).sort((a, b) => b.rest - a.rest);
  const raised = new Set(byRest.slice(0, missing).map(({ at }) => at));
  return floors.map((share, at) => share + (raised.has(at) ? 1 : 0));
}

/** "1 exchange", "3 exchanges". */
export const formatPlural = (count: number, noun: string, plural = `${noun}s`): string =>
  `${formatCount(count)} ${count === 1 ? noun : plural}`;

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
const two = (value: number): string => String(value).padStart(2, '0');

/** The name of a zone by its offset: "UTC", "UTC+2", "UTC−3:30". */
export function formatZone(utcOffsetMinutes: number): string {
  if (utcOffsetMinutes === 0) return 'UTC';
  const minutes = Math.abs(utcOffsetMinutes);
  const rest = minutes % 60;
  const sign = utcOffsetMinutes < 0 ? '−' : '+';
  return `UTC${sign}${Math.floor(minutes / 60)}${rest === 0 ? '' : `:${two(rest)}`}`;
}

/** An instant in a zone, without the zone's name: "3 Oct 2026, 09:14:07". */
export function formatInstant(epoch: number, utcOffsetMinutes: number): string {
  const local = new Date(epoch + utcOffsetMinutes * 60_000);
  const date = `${local.getUTCDate()} ${MONTHS[local.getUTCMonth()]} ${local.getUTCFullYear()}`;
  return `${date}, ${two(local.getUTCHours())}:${two(local.getUTCMinutes())}:${two(local.getUTCSeconds())}`;
}

/** The same to the millisecond, by which one line of a log is told from the next: "3 Oct 2026, 09:14:07.250". */
export const formatInstantMs = (epoch: number, utcOffsetMinutes: number): string =>
  `${formatInstant(epoch, utcOffsetMinutes)}.${String(new Date(epoch).getUTCMilliseconds()).padStart(3, '0')}`;

const SECOND_MS = 1000;
const MINUTE_MS = 60 * SECOND_MS;
const HOUR_MS = 60 * MINUTE_MS;
const DAY_MS = 24 * HOUR_MS;

/** From so many minutes on nobody counts seconds. */
const SECONDS_UNTIL_MS = 10 * MINUTE_MS;

/**
 * A span in its two greatest units: "30 s", "1 min 30 s", "14 min", "2 h 5 min", "400 days". Parts of a second as
 * `formatMs` has them.
 */
export function formatSpan(ms: number): string {
  if (ms < MINUTE_MS) return ms >= SECOND_MS && ms % SECOND_MS === 0 ? `${ms / SECOND_MS} s` : formatMs(ms);
  if (ms < HOUR_MS) {
    const seconds = Math.floor((ms % MINUTE_MS) / SECOND_MS);
    const minutes = `${Math.floor(ms / MINUTE_MS)} min`;
    return ms >= SECONDS_UNTIL_MS || seconds === 0 ? minutes : `${minutes} ${seconds} s`;
  }
  const hours = Math.floor(ms / HOUR_MS);
  if (ms < DAY_MS) {
    const minutes = Math.floor((ms % HOUR_MS) / MINUTE_MS);
    return minutes === 0 ? `${hours} h` : `${hours} h ${minutes} min`;
  }
  const days = Math.floor(ms / DAY_MS);
  const rest = Math.floor((ms % DAY_MS) / HOUR_MS);
  return days >= 10 || rest === 0 ? formatPlural(days, 'day') : `${formatPlural(days, 'day')} ${rest} h`;
}

/** What a finding costs: "up to 142 ms of the load, 916 kB on the wire"; empty where nothing of it is known. */
export function formatCost(cost: {
  readonly routeMs?: number;
  readonly isFurther?: true;
  readonly wireBytes?: number;
}): string {
  const { routeMs, isFurther, wireBytes } = cost;
  return [
    ...(routeMs === undefined ? [] : [`up to ${formatMs(routeMs)}${isFurther ? ' more' : ''} of the load`]),
    ...(wireBytes === undefined ? [] : [`${formatBytes(wireBytes)} on the wire`]),
  ].join(', ');
}

/** A time without the blur that adding leaves behind: 3.111, not 3.1109999999999998. In ms, exact to the nanosecond. */
export const exactMs = (ms: number | undefined): number | undefined =>
  ms === undefined ? undefined : Number(ms.toFixed(6));
