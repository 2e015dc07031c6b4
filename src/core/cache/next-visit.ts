import { type Exchange, type ExchangeIndex, findHeader, findResponse } from '../model';
import { type CachePolicy, readPolicy } from './policy';

/** How long after this visit the next one comes, in seconds. */
export const DELAYS = { minute: 60, hour: 3600, day: 86_400, month: 30 * 86_400 } as const;
export type DelayName = keyof typeof DELAYS;
export const isDelay = (name: string): name is DelayName => Object.hasOwn(DELAYS, name);

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

/** What the forecast needs of an exchange. */
export interface VisitItem {
  readonly index: ExchangeIndex;
  readonly policy: CachePolicy | undefined;
  /** How long browsers keep a preflight's leave, in seconds; undefined where it is no preflight, or gave none. */
  readonly leaveSeconds: number | undefined;
  /** The request that a preflight asked leave for. */
  readonly preflightFor: ExchangeIndex | undefined;
}

/** What a leave counts where the answer says nothing of it (Fetch 4.9), and the most that browsers allow. */
const DEFAULT_LEAVE_SECONDS = 5;
const MOST_LEAVE_SECONDS = 7200;

/**
 * Takes what the forecast needs of an exchange.
 * @param preflightFor of a preflight, the request that it asked leave for
 */
export function takeVisitItem(exchange: Exchange, preflightFor: ExchangeIndex | undefined): VisitItem {
  return { index: exchange.index, policy: readPolicy(exchange), leaveSeconds: leaveOf(exchange), preflightFor };
}

function leaveOf(exchange: Exchange): number | undefined {
  const response = findResponse(exchange);
  if (exchange.kind.value !== 'preflight' || response === undefined) return undefined;
  if (response.status < 200 || response.status >= 300) return undefined;
  const maxAge = findHeader(response.headers, 'access-control-max-age')?.trim() ?? '';
  return /^\d+$/.test(maxAge) ? Math.min(Number(maxAge), MOST_LEAVE_SECONDS) : DEFAULT_LEAVE_SECONDS;
}

/** What the next visit does with each, in the order given. A preflight is spared with its leave, or with its request. */
export function foretell(items: readonly VisitItem[], afterSeconds: number): NextVisit[] {
  const own = new Map(items.map(({ index, policy }) => [index, nextVisitOf(policy, afterSeconds)]));
  return items.map(({ index, leaveSeconds, preflightFor }) => {
    const isLeft = leaveSeconds !== undefined && afterSeconds < leaveSeconds;
    const isNeedless = preflightFor !== undefined && own.get(preflightFor) === 'reused';
    return isLeft || isNeedless ? 'reused' : (own.get(index) ?? 'fetched');
  });
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
  items: readonly (VisitItem & { readonly wireBytes: number | undefined; readonly bodyBytes: number | undefined })[],
  afterSeconds: number,
): VisitForecast {
  const counts = { reused: 0, revalidated: 0, fetched: 0 };
  let wireBytes = 0;
  let sparedBytes = 0;
  const nexts = foretell(items, afterSeconds);
  for (const [at, { wireBytes: own = 0, bodyBytes = 0 }] of items.entries()) {
    const next = nexts[at] ?? 'fetched';
    counts[next]++;
    // What this visit took from its cache would cross the wire as a whole, had it to be fetched.
    const whole = Math.max(own, own < CHECK_BYTES * 2 ? bodyBytes : own);
    const crossing = next === 'reused' ? 0 : next === 'revalidated' ? Math.min(CHECK_BYTES, whole) : whole;
    wireBytes += crossing;
    sparedBytes += whole - crossing;
  }
  return { ...counts, wireBytes, sparedBytes };
}
