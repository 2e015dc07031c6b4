// The same number or date, as people write it on a page and as programs keep it: 2,992.65 and 2992.65, 14 July 2027 and
// 2027-07-14. What may be read in two ways (2,992; 03/02/2027) is looked for in both.

/** Amounts and dates are short; what is longer is something else. */
const MOST_CHARS = 40;

/** The other spellings of a text that is a number, with or without a currency or unit sign; none where it is none. */
export function numberSpellings(text: string): string[] {
  if (text.length > MOST_CHARS) return [];
  const bare = /^[\p{Sc}\s]*([\d][\d.,'’\u0020\u00a0\u202f]*?)[\p{Sc}%\s]*$/u.exec(text)?.[1];
  if (bare === undefined) return [];
  const spellings = readingsOf(bare).flatMap(({ whole, fraction }) => writtenWays(whole, fraction));
  return [...new Set(spellings)].filter((one) => one !== text);
}

interface Reading {
  readonly whole: string;
  /** Without zeros at its end, which say nothing. */
  readonly fraction: string;
}

const GROUPED = /^(\d{1,3}(?:([.,'’\u0020\u00a0\u202f])\d{3})(?:\2\d{3})*)(?:([.,])(\d+))?$/;
const PLAIN = /^(\d+)(?:[.,](\d+))?$/;

function readingsOf(text: string): Reading[] {
  const readings: Reading[] = [];
  const add = (whole: string, fraction: string | undefined): void => {
    // What starts with a zero is an id, a code or a clock, not an amount.
    if (!/^0\d/.test(whole)) readings.push({ whole, fraction: (fraction ?? '').replace(/0+$/, '') });
  };
  const grouped = GROUPED.exec(text);
  if (grouped !== null && grouped[2] !== grouped[3]) add((grouped[1] ?? '').replace(/\D/g, ''), grouped[4]);
  const plain = PLAIN.exec(text);
  if (plain !== null) add(plain[1] ?? '', plain[2]);
  return readings;
}

/** As JSON and code have it, with a decimal comma, and in thousands by point, comma and spaces. */
function writtenWays(whole: string, fraction: string): string[] {
  const groupedBy = (sign: string): string => whole.replace(/\B(?=(\d{3})+$)/g, sign);
  const withFraction = (head: string, point: string): string => (fraction === '' ? head : head + point + fraction);
  const ways = [withFraction(whole, '.'), withFraction(whole, ',')];
  if (whole.length > 3) {
    ways.push(withFraction(groupedBy(','), '.'), withFraction(groupedBy('.'), ','));
    for (const space of [' ', '\u00a0', '\u202f', "'", '’']) {
      ways.push(withFraction(groupedBy(space), '.'), withFraction(groupedBy(space), ','));
    }
  }
  return ways;
}

const MONTHS = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
] as const;

interface Day {
  readonly year: number;
  /** From 1. */
  readonly month: number;
  readonly day: number;
}

/** The other spellings of a text that is a day or an instant; none where it is neither. */
export function dateSpellings(text: string): string[] {
  if (text.length > MOST_CHARS) return [];
  const instant = instantOf(text);
  const spellings = instant === undefined ? daysOf(text).flatMap(daySpellings) : instantSpellings(instant);
  return [...new Set(spellings)].filter((one) => one !== text);
}

/** 2001 to 2099 in seconds: what counts as an instant where only a number is given. */
const SECONDS = /^[1-3]\d{9}$/;
const MILLISECONDS = /^[1-3]\d{12}$/;
/** RFC 3339 5.6: a date and a time with its zone. */
const RFC_3339 = /^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}:\d{2}(?:\.\d+)?(?:Z|[+-]\d{2}:\d{2})$/i;

function instantOf(text: string): number | undefined {
  if (SECONDS.test(text)) return Number(text) * 1000;
  if (MILLISECONDS.test(text)) return Number(text);
  const ms = RFC_3339.test(text) ? Date.parse(text.replace(' ', 'T')) : Number.NaN;
  return Number.isNaN(ms) ? undefined : ms;
}

/** As RFC 3339 in UTC, as an HTTP date (RFC 9110 5.6.7), in milliseconds and seconds since 1970. */
function instantSpellings(ms: number): string[] {
  const date = new Date(ms);
  const iso = date.toISOString().slice(0, 19);
  return [iso, iso.replace('T', ' '), date.toUTCString(), String(ms), String(Math.floor(ms / 1000))];
}

function daysOf(text: string): Day[] {
  const days: Day[] = [];
  const add = (year: string | undefined, month: number, day: string | undefined): void => {
    const read: Day = { year: Number(year), month, day: Number(day) };
    if (isDay(read)) days.push(read);
  };
  const ahead = /^(\d{4})([-/.])(\d{1,2})\2(\d{1,2})$/.exec(text) ?? /^((?:19|20)\d{2})()(\d{2})(\d{2})$/.exec(text);
  if (ahead !== null) add(ahead[1], Number(ahead[3]), ahead[4]);
  const behind = /^(\d{1,2})([-/.])(\d{1,2})\2(\d{4})$/.exec(text);
  if (behind !== null) {
    add(behind[4], Number(behind[3]), behind[1]);
    // Slashes may have the month first.
    if (behind[2] === '/') add(behind[4], Number(behind[1]), behind[3]);
  }
  const named = /^(\d{1,2})\.? ([a-z]+)\.?,? (\d{4})$/i.exec(text);
  if (named !== null) add(named[3], monthOf(named[2] ?? ''), named[1]);
  const namedAhead = /^([a-z]+)\.? (\d{1,2}),? (\d{4})$/i.exec(text);
  if (namedAhead !== null) add(namedAhead[3], monthOf(namedAhead[1] ?? ''), namedAhead[2]);
  return days;
}

/** From 1; 0 where it names none. */
function monthOf(word: string): number {
  const wanted = word.toLowerCase();
  return wanted.length < 3 ? 0 : 1 + MONTHS.findIndex((month) => month.toLowerCase().startsWith(wanted));
}

function isDay({ year, month, day }: Day): boolean {
  const date = new Date(Date.UTC(year, month - 1, day));
  return year >= 1000 && date.getUTCMonth() === month - 1 && date.getUTCDate() === day;
}

function daySpellings({ year, month, day }: Day): string[] {
  const name = MONTHS[month - 1] ?? '';
  const short = name.slice(0, 3);
  const mm = String(month).padStart(2, '0');
  const dd = String(day).padStart(2, '0');
  return [
    `${year}-${mm}-${dd}`,
    `${year}/${mm}/${dd}`,
    `${year}${mm}${dd}`,
    `${dd}.${mm}.${year}`,
    `${day}.${month}.${year}`,
    `${dd}-${mm}-${year}`,
    `${dd}/${mm}/${year}`,
    `${day}/${month}/${year}`,
    `${mm}/${dd}/${year}`,
    `${month}/${day}/${year}`,
    // HTTP dates have it so (RFC 9110 5.6.7).
    `${dd} ${short} ${year}`,
    `${day} ${short} ${year}`,
    `${day} ${name} ${year}`,
    `${short} ${day}, ${year}`,
    `${name} ${day}, ${year}`,
  ];
}
