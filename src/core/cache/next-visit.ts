import type { CachePolicy } from './policy';

/** How long after this visit the next one comes, in seconds. */
export const DELAYS = { minute: 60, hour: 3600, day: 86_400, month: 30 * 86_400 } as const;
export type DelayName = keyof typeof DELAYS;

/** What a browser does on the next visit: take its copy, ask whether it is still good, fetch it anew. */
export type NextVisit = 'reused' | 'revalidated' | 'fetched';

/** What the next visit does with a response, so long after it came (RFC 9111 4). */
export function nextVisitOf(policy: CachePolicy | undefined, afterSeconds: number): NextVisit {
  if (policy === undefined || !policy.isStorable) return 'fetched';
  const ask: NextVisit = policy.validators.length > 0 ? 'revalidated' : 'fetched';
  if (policy.mustAsk) return ask;
  const age = policy.ageSeconds + afterSeconds;
  const fresh = policy.freshSeconds;
  // Within stale-while-revalidate (RFC 5861 3) it is used at once, but checked behind: the request is made all the same.
  return fresh !== undefined && age < fresh ? 'reused' : ask;
}

/** What a page's exchanges come to on the next visit. Wire bytes leave out what is unknown. */
export interface VisitForecast {
  readonly reused: number;
  readonly revalidated: number;
  readonly fetched: number;
  readonly wireBytes: number;
  readonly sparedBytes: number;
}

/** An answered check carries its headers only: so many bytes, typically. */
const CHECK_BYTES = 200;

/** Sums up the next visit over a page's exchanges. */
export function forecastVisit(
  items: readonly {
    readonly policy: CachePolicy | undefined;
    readonly wireBytes: number | undefined;
    readonly bodyBytes: number | undefined;
  }[],
  afterSeconds: number,
): VisitForecast {
  const counts = { reused: 0, revalidated: 0, fetched: 0 };
  let wireBytes = 0;
  let sparedBytes = 0;
  for (const { policy, wireBytes: own = 0, bodyBytes = 0 } of items) {
    const next = nextVisitOf(policy, afterSeconds);
    counts[next]++;
    // What this visit took from its cache would cross the wire as a whole, had it to be fetched.
    const whole = Math.max(own, own < CHECK_BYTES * 2 ? bodyBytes : own);
    const crossing = next === 'reused' ? 0 : next === 'revalidated' ? Math.min(CHECK_BYTES, whole) : whole;
    wireBytes += crossing;
    sparedBytes += whole - crossing;
  }
  return { ...counts, wireBytes, sparedBytes };
}
