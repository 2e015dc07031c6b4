const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
const FIXED = /^[A-Za-z]{3,9},? (\d{1,2})[ -]([A-Za-z]{3})[ -](\d{2}|\d{4}) (\d{2}):(\d{2}):(\d{2})(?: GMT| UTC|)$/;
const ASCTIME = /^[A-Za-z]{3} ([A-Za-z]{3}) {1,2}(\d{1,2}) (\d{2}):(\d{2}):(\d{2}) (\d{4})$/;

/**
 * An HTTP date (RFC 9110 5.6.7: the preferred form, RFC 850's and asctime's), in ms since 1970. Undefined for what is no
 * date: `Expires: 0` and the like, which general readers of dates take for one.
 */
export function readHttpDate(text: string | undefined): number | undefined {
  const plain = text?.trim() ?? '';
  const fixed = FIXED.exec(plain);
  if (fixed !== null) return instantOf(fixed[3], fixed[2], fixed[1], [fixed[4], fixed[5], fixed[6]]);
  const old = ASCTIME.exec(plain);
  return old === null ? undefined : instantOf(old[6], old[1], old[2], [old[3], old[4], old[5]]);
}

function instantOf(
  year: string | undefined,
  monthName: string | undefined,
  day: string | undefined,
  time: readonly (string | undefined)[],
): number | undefined {
  const month = MONTHS.findIndex((name) => name.toLowerCase() === monthName?.toLowerCase());
  if (month === -1) return undefined;
  const [hours = 0, minutes = 0, seconds = 0] = time.map(Number);
  // Years of two digits are of this century, or where that lies far ahead of the last one.
  const short = Number(year);
  const whole = year?.length === 2 ? short + (short < 70 ? 2000 : 1900) : short;
  return Date.UTC(whole, month, Number(day), hours, minutes, seconds);
}
