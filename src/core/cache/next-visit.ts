import { findObstacles, readSentCookies, readSetCookie } from '../content';
import { splitUrl } from '../http';
import {
  type Exchange,
  type ExchangeIndex,
  findField,
  findHeader,
  findLines,
  findResponse,
  type RequestPart,
} from '../model';
import { MOST_PERMISSION_SECONDS, permissionSeconds } from './permission';
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
  const ask: NextVisit = policy.isAskable ? 'revalidated' : 'fetched';
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
  /** What its page asks of the cache each time: to pass it by, or to check first (Fetch 5.3, request's cache mode). */
  readonly asks?: 'reload' | 'check' | undefined;
  /** Of a response that varies by Cookie: the cookies that the request had, and the host that it went to. */
  readonly variesFor?: { readonly host: string; readonly sent: ReadonlySet<string> } | undefined;
  /** The cookies that its response set, and for which host and those below it. */
  readonly sets?: readonly { readonly name: string; readonly host: string; readonly isExact: boolean }[];
}

/**
 * Takes what the forecast needs of an exchange.
 * @param preflightFor of a preflight, the request that it asked leave for
 */
export function takeVisitItem(exchange: Exchange, preflightFor: ExchangeIndex | undefined): VisitItem {
  const { request } = exchange;
  const response = findResponse(exchange);
  const host = splitUrl(request.url)?.host.toLowerCase() ?? '';
  const sent = new Set(readSentCookies(findHeader(request.headers, 'cookie') ?? '').map(({ name }) => name));
  const varies = /(^|[\s,])cookie([\s,]|$)/i.test(findField(response?.headers ?? [], 'vary') ?? '');
  const sets = findLines(response?.headers ?? [], 'set-cookie').flatMap((line) => {
    const cookie = readSetCookie(line, exchange.startedAt);
    if (cookie === undefined || findObstacles(cookie, request.url, exchange.startedAt).length > 0) return [];
    return [{ name: cookie.name, host: cookie.domain ?? host, isExact: cookie.domain === undefined }];
  });
  return {
    index: exchange.index,
    policy: readPolicy(exchange),
    leaveSeconds: leaveOf(exchange),
    preflightFor,
    asks: asksOf(request),
    variesFor: varies ? { host, sent } : undefined,
    sets,
  };
}

/** What a request asks of the caches by its own headers, as browsers write the modes no-store, reload and no-cache. */
function asksOf({ headers }: RequestPart): VisitItem['asks'] {
  const control = findField(headers, 'cache-control') ?? '';
  if (/no-cache|no-store/i.test(control) || /no-cache/i.test(findField(headers, 'pragma') ?? '')) return 'reload';
  const isConditional =
    findHeader(headers, 'if-none-match') !== undefined || findHeader(headers, 'if-modified-since') !== undefined;
  return /max-age=0/i.test(control) && !isConditional ? 'check' : undefined;
}

function leaveOf(exchange: Exchange): number | undefined {
  const response = findResponse(exchange);
  if (exchange.kind.value !== 'preflight' || response === undefined) return undefined;
  if (response.status < 200 || response.status >= 300) return undefined;
  return Math.min(permissionSeconds(findHeader(response.headers, 'access-control-max-age')), MOST_PERMISSION_SECONDS);
}

/**
 * What the next visit does with each, in the order given. A preflight is spared with its leave, or with its request. What
 * asked to pass the cache by will ask so again, unless most did: then it was the recording that had the cache off. What
 * varies by Cookie is no copy for a request that has the cookies which this load set.
 */
export function foretell(items: readonly VisitItem[], afterSeconds: number): NextVisit[] {
  const asking = items.filter(({ asks }) => asks !== undefined).length;
  const isOff = asking > items.length / 2;
  const set = new SetCookies(items.flatMap(({ sets = [] }) => sets));
  const isForOthers = ({ variesFor }: VisitItem): boolean => variesFor !== undefined && set.areNewTo(variesFor);
  const nextOf = (item: VisitItem): NextVisit => {
    const next = nextVisitOf(item.policy, afterSeconds);
    if (isForOthers(item) || (item.asks === 'reload' && !isOff)) return 'fetched';
    return item.asks === 'check' && !isOff && next === 'reused'
      ? nextVisitOf(item.policy, Number.POSITIVE_INFINITY)
      : next;
  };
  const own = new Map(items.map((item) => [item.index, nextOf(item)]));
  return items.map(({ index, leaveSeconds, preflightFor }) => {
    const isLeft = leaveSeconds !== undefined && afterSeconds < leaveSeconds;
    const isNeedless = preflightFor !== undefined && own.get(preflightFor) === 'reused';
    return isLeft || isNeedless ? 'reused' : (own.get(index) ?? 'fetched');
  });
}

/** The cookies that a load set, by where they are sent: looked up for each request that varies by them. */
class SetCookies {
  readonly #byHost = new Map<string, Set<string>>();
  /** Those that go to the hosts below too. */
  readonly #byDomain = new Map<string, Set<string>>();

  constructor(cookies: NonNullable<VisitItem['sets']>) {
    for (const { name, host, isExact } of cookies) {
      const byHost = isExact ? this.#byHost : this.#byDomain;
      const names = byHost.get(host);
      if (names === undefined) byHost.set(host, new Set([name]));
      else names.add(name);
    }
  }

  /** Whether a request to that host will have one that it did not have. */
  areNewTo({ host, sent }: NonNullable<VisitItem['variesFor']>): boolean {
    if (hasOther(this.#byHost.get(host), sent)) return true;
    for (let domain = host, dot = 0; dot !== -1; ) {
      if (hasOther(this.#byDomain.get(domain), sent)) return true;
      dot = domain.indexOf('.');
      domain = domain.slice(dot + 1);
    }
    return false;
  }
}

/** Whether there are names beside known ones: found out in as many steps as those are. */
function hasOther(names: ReadonlySet<string> | undefined, known: ReadonlySet<string>): boolean {
  for (const name of names ?? []) if (!known.has(name)) return true;
  return false;
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
