import type { ExchangeRow, Moments } from '../analysis';
import type { Phases } from '../model';
import { findRate, findRoundTrips, type Rate, type RoundTrip, serverMsOf } from '../timing';
import { PARTS, TIME_PARTS, UnionGraph } from './graph';
import type { Matched } from './match';

/** The connections to the network of two loads, as far as they can be told. */
export interface ConnectionsOfBoth {
  /** By host for which both can be told from connects, or from a delay that all waits have: the way there and back, in ms. */
  readonly trips: readonly { readonly host: string; readonly aMs: number; readonly bMs: number }[];
  /** Wire bytes a ms at the best, over 500 ms; undefined where too little came to tell. */
  readonly rate: { readonly a: number | undefined; readonly b: number | undefined };
  /** How they differ by more than connections do by themselves. */
  readonly isFarther: boolean;
  readonly isNarrower: boolean;
  /** What A's load would take with B's connection and nothing else of B's, less what it took; absent where they do not differ. */
  readonly aloneMs: number | undefined;
}

/** From this factor on a connection is another one. */
const OTHER_FACTOR = 1.5;
const OTHER_MS = 10;

interface Timed {
  readonly rows: readonly ExchangeRow[];
  readonly moments: Moments | undefined;
}

/** Compares the ways and the rates of two loads, and plays A's load with B's connection where that is another one. */
export function compareConnections(a: Timed, b: Timed, pairs: readonly Matched[]): ConnectionsOfBoth {
  const [tripsA, tripsB] = [findRoundTrips(a.rows), findRoundTrips(b.rows)];
  const trips = [...tripsA].flatMap(([host, own]) => {
    const other = tripsB.get(host);
    return other === undefined || !tells(own) || !tells(other) ? [] : [{ host, aMs: own.ms, bMs: other.ms }];
  });
  const [rateA, rateB] = [rateOf(a.rows), rateOf(b.rows)];
  const middle = (side: 'aMs' | 'bMs'): number => {
    const values = trips.map((trip) => trip[side]).sort((one, two) => one - two);
    return values[Math.ceil(values.length / 2) - 1] ?? 0;
  };
  const [tripA, tripB] = [middle('aMs'), middle('bMs')];
  const isFarther = trips.length > 0 && isOtherBy(tripA, tripB) && Math.abs(tripA - tripB) >= OTHER_MS;
  const isNarrower = isNarrow(rateA, rateB) || isNarrow(rateB, rateA);
  return {
    trips,
    rate: { a: rateA?.bytesPerMs, b: rateB?.bytesPerMs },
    isFarther,
    isNarrower,
    aloneMs: isFarther || isNarrower ? playAlone(a, pairs, tripsA, tripsB) : undefined,
  };
}

/** Of the least wait nobody knows how much of it was the server's. */
const tells = ({ from }: RoundTrip): boolean => from !== 'wait';

/** What came in a load bounds what could have come only where the connection was full: a load may simply have asked for less. */
const isNarrow = (one: Rate | undefined, other: Rate | undefined): boolean =>
  one !== undefined &&
  other !== undefined &&
  one.full.length > 0 &&
  one.bytesPerMs < other.bytesPerMs &&
  isOtherBy(one.bytesPerMs, other.bytesPerMs);

const isOtherBy = (one: number, other: number): boolean => Math.max(one, other) >= OTHER_FACTOR * Math.min(one, other);

const rateOf = (rows: readonly ExchangeRow[]): Rate | undefined =>
  findRate(
    rows.flatMap(({ startMs, timeMs = 0, phases, wireBytes }) =>
      startMs === undefined ? [] : [{ startMs, timeMs, phases, wireBytes }],
    ),
  );

/**
 * A's load with B's connection: each exchange that both have sets up its connection and receives each byte in B's time,
 * and waits one of B's round trips in place of A's; what the server took stays A's.
 */
function playAlone(
  a: Timed,
  pairs: readonly Matched[],
  tripsA: ReadonlyMap<string, RoundTrip>,
  tripsB: ReadonlyMap<string, RoundTrip>,
): number | undefined {
  const others = new Map(pairs.map((pair) => [pair.a.index, pair.b]));
  const rows = a.rows.map((row): ExchangeRow => {
    const other = others.get(row.index);
    if (other === undefined || !crossed(row) || !crossed(other)) return row;
    const { dnsMs, connectMs, tlsMs } = row.phases.connectMs === undefined ? row.phases : other.phases;
    const waitMs =
      row.phases.waitMs === undefined
        ? undefined
        : serverMsOf(row.phases.waitMs, tripsA.get(row.host)) +
          Math.min(tripsB.get(other.host)?.ms ?? 0, other.phases.waitMs ?? 0);
    const { blockedMs } = row.phases;
    const phases: Phases = {
      ...row.phases,
      // What waited for its turn behind others on a full connection waits no longer than it did over the other one.
      blockedMs: blockedMs === undefined ? undefined : Math.min(blockedMs, other.phases.blockedMs ?? 0),
      dnsMs,
      connectMs,
      tlsMs,
      waitMs,
      receiveMs: receiveMsOf(row, other),
    };
    const sum = (of: Phases): number => Object.values(of).reduce<number>((all, ms) => all + (ms ?? 0), 0);
    return { ...row, phases, timeMs: Math.max(0, (row.timeMs ?? 0) + sum(phases) - sum(row.phases)) };
  });
  const graph = UnionGraph.of(
    a,
    { rows, moments: a.moments },
    {
      pairs: a.rows.flatMap((row, at) => {
        const other = rows[at];
        return other === undefined ? [] : [{ a: row, b: other, by: 'request' as const }];
      }),
      gone: [],
      fresh: [],
      groups: [],
      endpointOf: ({ endpoint }) => endpoint,
    },
  );
  if (graph === undefined) return undefined;
  const state = graph.begin();
  const before = graph.play(state).atMs;
  return graph.play({ ...state, taken: state.taken.fill(TIME_BITS) }).atMs - before;
}

const TIME_BITS = TIME_PARTS.reduce((bits, part) => bits | PARTS[part], 0);

const crossed = ({ source }: ExchangeRow): boolean => source === 'network' || source === 'revalidated';

/** What so many bytes took to come over the other connection; as recorded where nobody knows how many there were. */
function receiveMsOf(row: ExchangeRow, other: ExchangeRow): number | undefined {
  const { receiveMs } = row.phases;
  const theirs = other.phases.receiveMs;
  if (receiveMs === undefined || theirs === undefined || !row.wireBytes || !other.wireBytes) return receiveMs;
  return theirs * (row.wireBytes / other.wireBytes);
}
