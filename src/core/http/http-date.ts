const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];
const FIXED = /^[A-Za-z]{3,9},? (\d{1,2})[ -]([A-Za-z]{3})[ -](\d{2}|\d{4}) (\d{2}):(\d{2}):(\d{2})(?: GMT| UTC|)$/;
const ASCTIME = /^[A-Za-z]{3} ([A-Za-z]{3}) {1,2}(\d{1,2}) (\d{2}):(\d{2}):(\d{2}) (\d{4})$/;
/** ISO 8601, which some servers write. */
const ISO = /^(\d{4})-(\d\d)-(\d\d)(?:[T ](\d\d):(\d\d)(?::(\d\d)(?:\.\d+)?)?)?\s*(Z|[+-]\d\d:?\d\d)?$/i;
/** Zones that have names (RFC 5322 4.3), in minutes before UTC. */
const ZONES: Readonly<Record<string, number>> = {
  est: 300,
  edt: 240,
  cst: 360,
  cdt: 300,
  mst: 420,
  mdt: 360,
  pst: 480,
  pdt: 420,
};

/**
 * An HTTP date, in ms since 1970: one of the three forms of the standard (RFC 9110 5.6.7), or another that browsers take for
 * a date as well. Undefined for what is none: `Expires: 0` and the like, which general readers of dates take for one, and
 * days that no month has.
 */
export function readHttpDate(text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  const known = KNOWN.get(text);
  if (known !== undefined || KNOWN.has(text)) return known;
  const read = readDate(text.trim());
  if (KNOWN.size >= MOST_KNOWN) KNOWN.clear();
  if (text.length <= LONGEST_KNOWN) KNOWN.set(text, read);
  return read;
}

/** Dates that were read last: the responses of a second have the same. */
const KNOWN = new Map<string, number | undefined>();
const MOST_KNOWN = 1000;
const LONGEST_KNOWN = 100;

function readDate(plain: string): number | undefined {
  const fixed = FIXED.exec(plain);
  if (fixed !== null) return instantOf(fixed[3], fixed[2], fixed[1], [fixed[4], fixed[5], fixed[6]]);
  const old = ASCTIME.exec(plain);
  if (old !== null) return instantOf(old[6], old[1], old[2], [old[3], old[4], old[5]]);
  return readOddDate(plain.replace(/^"(.*)"$/, '$1'));
}

/** A date that no standard of HTTP knows: ISO's, or words with a day, the name of a month and a year in any order. */
function readOddDate(text: string): number | undefined {
  const iso = ISO.exec(text);
  if (iso !== null) {
    const [, year = '', month = '', day = '', ...rest] = iso;
    return instantOf(year, MONTHS[Number(month) - 1], day, rest.slice(0, 3), minutesBefore(rest[3]));
  }
  const clock = /\b(\d{1,2}):(\d\d)(?::(\d\d))?\b/.exec(text);
  const rest = clock === null ? text : text.replace(clock[0], ' ');
  const zone = /(?:^|\s)([+-]\d\d:?\d\d|[A-Za-z]{3,4})\s*$/.exec(rest)?.[1];
  const words = rest.split(/[\s,]+/);
  const month = words.find((word) => MONTHS.includes(word.slice(0, 3).toLowerCase()) && /^[a-z]{3,9}$/i.test(word));
  const day = words.find((word) => /^\d{1,2}$/.test(word));
  const year = words.find((word) => /^\d{4}$/.test(word));
  if (year === undefined || day === undefined) return undefined;
  return instantOf(year, month?.slice(0, 3), day, clock?.slice(1) ?? [], minutesBefore(zone));
}

function minutesBefore(zone: string | undefined): number {
  const [, sign, hours, minutes] = /^([+-])(\d\d):?(\d\d)$/.exec(zone ?? '') ?? [];
  if (sign !== undefined) return (sign === '-' ? 1 : -1) * (Number(hours) * 60 + Number(minutes));
  return ZONES[zone?.toLowerCase() ?? ''] ?? 0;
}

function instantOf(
  year: string | undefined,
  monthName: string | undefined,
  day: string | undefined,
  time: readonly (string | undefined)[],
  minutesBeforeUtc = 0,
): number | undefined {
  const month = MONTHS.indexOf(monthName?.toLowerCase() ?? '');
  if (month === -1) return undefined;
  const [hours = 0, minutes = 0, seconds = 0] = time.map((part) => Number(part ?? 0));
  // Years of two digits are of this century, or where that lies far ahead of the last one.
  const short = Number(year);
  const whole = year?.length === 2 ? short + (short < 70 ? 2000 : 1900) : short;
  const date = new Date(Date.UTC(whole, month, Number(day), hours, minutes, seconds));
  // Browsers carry hours, minutes and seconds over, as of midnight written as 24:00:00: only the day must be one.
  const isDay = new Date(Date.UTC(whole, month, Number(day))).getUTCDate() === Number(day);
  return isDay ? date.getTime() + minutesBeforeUtc * 60_000 : undefined;
}
