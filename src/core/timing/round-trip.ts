import type { Kind, Phases, Source } from '../model';

/** The way to a host and back: the least time that anything took which needs one, and what that was seen in. */
export interface RoundTrip {
  readonly ms: number;
  /** `every-wait`: connects were far quicker than any wait of any host, so they did not go the way that requests went. */
  readonly from: 'connect' | 'wait' | 'every-wait';
  /** How many connects or waits it is the least of. */
  readonly count: number;
}

/** What the search for round trips needs of an exchange. */
export interface TripStop {
  readonly host: string;
  readonly kind: Kind;
  readonly source: Source;
  readonly phases: Phases;
}

/** One wait may be all server; among three the least is hardly any. */
const LEAST_WAITS = 3;
/** So many waits, of which none is short, are more than a few slow answers. */
const LEAST_EVERY_WAIT = 8;
/** A browser that is told to be slow delays by tens of ms at least. */
const LEAST_DELAY_MS = 20;
const CONNECT_SHARE = 0.2;
/** A delay that all have is the whole wait of many, or the least of several hosts; servers that are slow are so each in its way. */
const NEAR_LEAST = 1.1;
const NEAR_SHARE = 0.25;
const NEAR_HOSTS = 2;
/** What came from the server itself. */
const FROM_SERVER: ReadonlySet<Source> = new Set<Source>(['network', 'revalidated']);

/**
 * The round trip of each host, in ms: the least of its connects (TCP's handshake takes one, RFC 9293 3.5) and, where it
 * answered three times and more, of its waits. It is an upper bound of the way and so a fair one: no exchange was quicker.
 * Connects are left out where they went another way than the requests: a browser that is told to be slow delays requests
 * alone, and a connect to a proxy goes to the proxy.
 */
export function findRoundTrips(stops: Iterable<TripStop>): ReadonlyMap<string, RoundTrip> {
  const seen = new Map<string, HostTimes>();
  for (const { host, kind, source, phases } of stops) {
    let own = seen.get(host);
    if (own === undefined) {
      own = { connects: [], waits: [], askedWaits: [] };
      seen.set(host, own);
    }
    if ((phases.connectMs ?? 0) > 0) own.connects.push(phases.connectMs ?? 0);
    if (!FROM_SERVER.has(source) || (phases.waitMs ?? 0) <= 0) continue;
    own.waits.push(phases.waitMs ?? 0);
    if (kind !== 'preflight') own.askedWaits.push(phases.waitMs ?? 0);
  }
  const delay = findDelay([...seen.values()]);
  const trips = new Map<string, RoundTrip>();
  for (const [host, { connects, waits, askedWaits }] of seen) {
    const [connectMs, waitMs] = [leastOf(connects), leastOf(waits)];
    if (delay !== undefined)
      trips.set(
        host,
        askedWaits.length < LEAST_WAITS
          ? delay
          : { ms: leastOf(askedWaits), from: 'every-wait', count: askedWaits.length },
      );
    // A wait that is shorter than every connect bounds the way by itself.
    else if (connectMs <= waitMs && connects.length > 0)
      trips.set(host, { ms: connectMs, from: 'connect', count: connects.length });
    else if (connects.length > 0 || waits.length >= LEAST_WAITS)
      trips.set(host, { ms: waitMs, from: 'wait', count: waits.length });
  }
  return trips;
}

/** What a host's exchanges took, in ms. */
interface HostTimes {
  readonly connects: number[];
  readonly waits: number[];
  /** Those of requests that the page made: what a browser asks first by itself, a preflight, is not delayed. */
  readonly askedWaits: number[];
}

/** The least wait of all, where there are many, connects were far quicker and many waits were no longer than it. */
function findDelay(hosts: readonly HostTimes[]): RoundTrip | undefined {
  const waits = hosts.flatMap((host) => host.askedWaits);
  const connects = hosts.flatMap((host) => (host.connects.length === 0 ? [] : [leastOf(host.connects)]));
  const ms = leastOf(waits);
  const isNear = (waitMs: number): boolean => waitMs <= ms * NEAR_LEAST;
  const nearHosts = hosts.filter(({ askedWaits }) => askedWaits.length >= LEAST_WAITS && isNear(leastOf(askedWaits)));
  const isDelayed =
    waits.length >= LEAST_EVERY_WAIT &&
    connects.length > 0 &&
    ms >= LEAST_DELAY_MS &&
    connects.every((connectMs) => connectMs <= ms * CONNECT_SHARE) &&
    (waits.filter(isNear).length >= waits.length * NEAR_SHARE || nearHosts.length >= NEAR_HOSTS);
  return isDelayed ? { ms, from: 'every-wait', count: waits.length } : undefined;
}

const leastOf = (values: readonly number[]): number =>
  values.reduce((least, value) => Math.min(least, value), Number.POSITIVE_INFINITY);

/**
 * About how much of a wait was the server's own time: the wait less one round trip; the whole where none is known. The way
 * may have been longer just then, or shorter than the least wait, part of which was a server's, too.
 */
export const serverMsOf = (waitMs: number, trip: RoundTrip | undefined): number =>
  Math.max(0, waitMs - (trip?.ms ?? 0));
