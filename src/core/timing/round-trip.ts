import type { Phases, Source } from '../model';

/** The way to a host and back: the least time that anything took which needs one, and what that was seen in. */
export interface RoundTrip {
  readonly ms: number;
  readonly from: 'connect' | 'wait';
  /** How many connects or waits it is the least of. */
  readonly count: number;
}

/** What the search for round trips needs of an exchange. */
export interface TripStop {
  readonly host: string;
  readonly source: Source;
  readonly phases: Phases;
}

/** One wait may be all server; among three the least is hardly any. */
const LEAST_WAITS = 3;
/** What came from the server itself. */
const FROM_SERVER: ReadonlySet<Source> = new Set<Source>(['network', 'revalidated']);

/**
 * The round trip of each host, in ms: the least of its connects (TCP's handshake takes one, RFC 9293 3.5) and, where it
 * answered three times and more, of its waits. It is an upper bound of the way and so a fair one: no exchange was quicker.
 */
export function findRoundTrips(stops: Iterable<TripStop>): ReadonlyMap<string, RoundTrip> {
  const seen = new Map<string, { connects: number[]; waits: number[] }>();
  for (const { host, source, phases } of stops) {
    let own = seen.get(host);
    if (own === undefined) {
      own = { connects: [], waits: [] };
      seen.set(host, own);
    }
    if ((phases.connectMs ?? 0) > 0) own.connects.push(phases.connectMs ?? 0);
    if (FROM_SERVER.has(source) && (phases.waitMs ?? 0) > 0) own.waits.push(phases.waitMs ?? 0);
  }
  const trips = new Map<string, RoundTrip>();
  for (const [host, { connects, waits }] of seen) {
    const [connectMs, waitMs] = [leastOf(connects), leastOf(waits)];
    // A wait that is shorter than every connect bounds the way by itself.
    if (connectMs <= waitMs && connects.length > 0)
      trips.set(host, { ms: connectMs, from: 'connect', count: connects.length });
    else if (connects.length > 0 || waits.length >= LEAST_WAITS)
      trips.set(host, { ms: waitMs, from: 'wait', count: waits.length });
  }
  return trips;
}

const leastOf = (values: readonly number[]): number =>
  values.reduce((least, value) => Math.min(least, value), Number.POSITIVE_INFINITY);

/** What of a wait was the server's own time, at most: the wait less one round trip; the whole where none is known. */
export const serverMsOf = (waitMs: number, trip: RoundTrip | undefined): number =>
  Math.max(0, waitMs - (trip?.ms ?? 0));
