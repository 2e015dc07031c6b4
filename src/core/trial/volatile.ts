/** Names of what is new each time. */
const NAMED =
  /(?:^|[._-])(?:id|uuid|guid|nonce|token|csrf|etag|timestamp|time|date|now|at|until|expires|expiry|updated|created|generated|request_?id|trace_?id|seq|counter|hits|views)$|(?:Id|Uuid|Nonce|Token|At|Time|Date|Until|Expiry)$/;
const TIME =
  /^"?\d{4}-\d\d-\d\d(?:[T ]\d\d:\d\d(?::\d\d(?:\.\d+)?)?(?:Z|[+-]\d\d:?\d\d)?)?"?$|^"?[A-Z][a-z]{2}, \d\d [A-Z][a-z]{2} \d{4} \d\d:\d\d:\d\d GMT"?$/;
const UUID = /^"?[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12}"?$/i;
/** Long, without blanks, with digits: what a generator gives. */
const RANDOM = /^"?(?=[^"]*\d)[A-Za-z0-9_~+/=.:-]{16,}"?$/;
/** Seconds or milliseconds since 1970, between 2001 and 2100. */
const isEpoch = (text: string): boolean => {
  if (!/^\d{10}(?:\.\d+)?$|^\d{13}$/.test(text)) return false;
  const ms = text.length === 13 ? Number(text) : Number(text) * 1000;
  return ms >= 978_307_200_000 && ms <= 4_133_980_800_000;
};

/** Whether a value looks like one that changes by itself: a time, an id, a nonce, a counter. The same both ways round. */
export function looksVolatile(place: string, was: string | undefined, is: string | undefined): boolean {
  if (was === undefined || is === undefined) return false;
  const both = (test: (text: string) => boolean): boolean => test(was) && test(is);
  if (both((text) => TIME.test(text)) || both((text) => UUID.test(text)) || both(isEpoch)) return true;
  if (both((text) => RANDOM.test(text)) && Math.abs(was.length - is.length) <= 4) return true;
  const name = /([A-Za-z0-9_-]+)(?:\[\d+\]|\["[^"]*"\])*$/.exec(place)?.[1] ?? '';
  // A short id or a counter is told by its name and by its form: the same letters around another number.
  const form = (text: string): string => text.replace(/\d+/g, '0');
  return NAMED.test(name) && /\d/.test(was) && /\d/.test(is) && form(was) === form(is);
}
