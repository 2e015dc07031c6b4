import { type ExchangeRow, isSpared } from '../analysis';
import type { NextVisit } from '../cache';
import type { ExchangeIndex } from '../model';
import { type ComparedLoad, type ExchangeTraits, MATTERING } from './load';
import type { Matched } from './match';

/**
 * Why the very same bytes were fetched again, by what the first response said: it forbade to store it; it gave no time for
 * which it is fresh, and nothing to ask by; it had expired; it was fresh, or could have been asked about, and was fetched
 * all the same, as by a reload, or out of a cache that had dropped it.
 */
export type FetchedAgain = 'not-storable' | 'no-lifetime' | 'expired' | 'all-the-same';

/** What a visit did with the copies of an earlier one. */
export interface Visits {
  /** The side of the earlier visit. */
  readonly earlier: 'a' | 'b';
  /** How long after the earlier load's start the later one began, in ms. */
  readonly afterMs: number;
  /** What was taken from a cache, and what the earlier visit had for it on the wire. */
  readonly spared: { readonly exchanges: number; readonly wireBytes: number };
  readonly asked: number;
  readonly fetchedAgain: readonly {
    readonly earlier: ExchangeIndex;
    readonly later: ExchangeIndex;
    readonly why: FetchedAgain;
    readonly wireBytes: number | undefined;
  }[];
  /** The forecast of the earlier visit against what the later one did; absent where none is known. */
  readonly forecast:
    | {
        readonly agreed: number;
        readonly differing: readonly {
          readonly earlier: ExchangeIndex;
          readonly later: ExchangeIndex;
          readonly foretold: NextVisit;
          readonly did: NextVisit;
        }[];
      }
    | undefined;
}

/**
 * What the later of two visits did with what the earlier one may have left in the cache. Undefined where nobody knows which
 * was first, the earlier one has nothing of it from the network, or neither took anything from a cache: then the later
 * visit is no warm one.
 */
export function compareVisits(a: ComparedLoad, b: ComparedLoad, pairs: readonly Matched[]): Visits | undefined {
  const [startA, startB] = [startOf(a), startOf(b)];
  if (startA === undefined || startB === undefined || startA === startB) return undefined;
  const earlier = startA < startB ? 'a' : 'b';
  const load = earlier === 'a' ? a : b;
  const later = earlier === 'a' ? b : a;
  const both = pairs
    .map((pair) => (earlier === 'a' ? { first: pair.a, again: pair.b } : { first: pair.b, again: pair.a }))
    .filter(({ first, again }) => first.method === 'GET' && first.url === again.url);
  const spared = both.filter(({ first, again }) => didOf(again) === 'reused' && !isSpared(first));
  const asked = both.filter(({ again }) => didOf(again) === 'revalidated').length;
  if (spared.length + asked === 0) return undefined;
  const traitsOf = (one: ComparedLoad) => {
    const places = new Map(one.rows.map(({ index }, at) => [index, at]));
    return (row: ExchangeRow): ExchangeTraits | undefined => one.traits[places.get(row.index) ?? -1];
  };
  const [traitsOfFirst, traitsOfAgain] = [traitsOf(load), traitsOf(later)];
  const afterMs = Math.abs(startB - startA);
  const isSameBody = (first: ExchangeRow, again: ExchangeRow): boolean => {
    const [one, other] = [traitsOfFirst(first)?.bodyHash, traitsOfAgain(again)?.bodyHash];
    return one !== undefined && one === other;
  };
  const hasValidator = (row: ExchangeRow): boolean =>
    VALIDATOR_PLACES.some((at) => traitsOfFirst(row)?.headers[at] !== undefined);
  const fetchedAgain = both
    .filter(({ first, again }) => didOf(again) === 'fetched' && first.status === 200 && isSameBody(first, again))
    .map(({ first, again }) => ({
      earlier: first.index,
      later: again.index,
      why: whyAgain(first, hasValidator(first), afterMs),
      wireBytes: again.wireBytes,
    }));
  return {
    earlier,
    afterMs,
    spared: {
      exchanges: spared.length,
      wireBytes: spared.reduce((sum, { first }) => sum + (first.wireBytes ?? 0), 0),
    },
    asked,
    fetchedAgain,
    forecast: forecastOf(load, both),
  };
}

const VALIDATOR_PLACES = ['etag', 'last-modified'].map((name) => (MATTERING as readonly string[]).indexOf(name));

const startOf = ({ page, rows }: ComparedLoad): number | undefined =>
  page?.startedAt ??
  rows.reduce<number | undefined>(
    (first, { startedAt }) =>
      startedAt !== undefined && (first === undefined || startedAt < first) ? startedAt : first,
    undefined,
  );

/** What a visit did, by the source. */
const didOf = (row: ExchangeRow): NextVisit | undefined => {
  if (row.source === 'revalidated') return 'revalidated';
  if (row.source === 'network') return 'fetched';
  return row.source === 'cache' || row.source === 'memory' || row.source === 'disk' ? 'reused' : undefined;
};

function whyAgain(first: ExchangeRow, hasValidator: boolean, afterMs: number): FetchedAgain {
  if (!first.isStorable) return 'not-storable';
  if (hasValidator) return 'all-the-same';
  if (first.freshSeconds === undefined || first.freshSeconds === 0) return 'no-lifetime';
  return first.freshSeconds * 1000 < afterMs ? 'expired' : 'all-the-same';
}

function forecastOf(
  { rows, foretold }: ComparedLoad,
  both: readonly { readonly first: ExchangeRow; readonly again: ExchangeRow }[],
): Visits['forecast'] {
  if (foretold === undefined) return undefined;
  const places = new Map(rows.map(({ index }, at) => [index, at]));
  // Of what a visit asks for more than once the last response is the one that is kept.
  const last = new Map(both.map((one) => [one.first.url, one]));
  const held = [...last.values()].flatMap(({ first, again }) => {
    const [did, said] = [didOf(again), foretold[places.get(first.index) ?? -1]];
    return did === undefined || said === undefined
      ? []
      : [{ earlier: first.index, later: again.index, foretold: said, did }];
  });
  const differing = held.filter((one) => one.foretold !== one.did);
  return { agreed: held.length - differing.length, differing };
}
