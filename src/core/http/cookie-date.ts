const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];
/** What stands between the words of a cookie's date. */
const DELIMITERS = /[\t\x20-\x2f\x3b-\x40\x5b-\x60\x7b-\x7e]+/;
const TIME = /^(\d{1,2}):(\d{1,2}):(\d{1,2})(?:\D.*)?$/;
const DAY = /^(\d{1,2})(?:\D.*)?$/;
const YEAR = /^(\d{2,4})(?:\D.*)?$/;

/**
 * A cookie's Expires as browsers read it (RFC 6265 5.1.1), in ms since 1970: words in any order, the first that fits each
 * part. Undefined where a part lacks or there is no such day: the attribute is ignored then.
 */
export function readCookieDate(text: string): number | undefined {
  let time: number[] | undefined;
  let day: number | undefined;
  let month: number | undefined;
  let year: number | undefined;
  for (const word of text.split(DELIMITERS)) {
    const clock = time === undefined ? TIME.exec(word) : null;
    const named = MONTHS.indexOf(word.slice(0, 3).toLowerCase());
    if (clock !== null) time = clock.slice(1).map(Number);
    else if (day === undefined && DAY.test(word)) day = Number(DAY.exec(word)?.[1]);
    else if (month === undefined && named !== -1) month = named;
    else if (year === undefined && YEAR.test(word)) year = Number(YEAR.exec(word)?.[1]);
  }
  if (time === undefined || day === undefined || month === undefined || year === undefined) return undefined;
  const whole = year < 70 ? year + 2000 : year < 100 ? year + 1900 : year;
  const [hours = 0, minutes = 0, seconds = 0] = time;
  if (whole < 1601 || hours > 23 || minutes > 59 || seconds > 59) return undefined;
  const date = new Date(Date.UTC(whole, month, day, hours, minutes, seconds));
  return date.getUTCDate() === day && date.getUTCMonth() === month ? date.getTime() : undefined;
}
