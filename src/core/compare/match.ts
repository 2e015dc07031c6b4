import { type ExchangeRow, requestKey } from '../analysis';
import { groupBy } from '../collections';
import type { ExchangeIndex, Kind } from '../model';
import { CommonEndpoints } from './endpoints';
import { withoutFingerprints } from './fingerprint';
import { addressIn, type HostMap } from './hosts';
import { longestCommon } from './longest-common';

/**
 * By what two exchanges are taken for the same, the surest first. "request": method, address, operation and payload are
 * the same; "fingerprint": all but a fingerprint in a name or query; "endpoint": the same endpoint and address, in order;
 * "numbers": the same endpoint, and the same address but for numbers; "place": the same endpoint, and the same place among its
 * calls; "hand": somebody said so.
 */
export type MatchedBy = 'hand' | 'request' | 'fingerprint' | 'endpoint' | 'numbers' | 'place';

export interface Matched {
  readonly a: ExchangeRow;
  readonly b: ExchangeRow;
  readonly by: MatchedBy;
}

/** The calls of an endpoint of which the sides have different numbers. */
export interface MatchedGroup {
  readonly endpoint: string;
  readonly a: readonly ExchangeIndex[];
  readonly b: readonly ExchangeIndex[];
}

export interface Matching {
  readonly pairs: readonly Matched[];
  readonly gone: readonly ExchangeRow[];
  readonly fresh: readonly ExchangeRow[];
  readonly groups: readonly MatchedGroup[];
  /** The endpoint of an exchange as both sides know it. */
  readonly endpointOf: (row: ExchangeRow) => string;
}

/** What somebody corrected: exchanges of A with those of B. */
export interface Corrections {
  readonly matched: readonly (readonly [a: ExchangeIndex, b: ExchangeIndex])[];
  readonly parted: readonly (readonly [a: ExchangeIndex, b: ExchangeIndex])[];
}

export const NO_CORRECTIONS: Corrections = { matched: [], parted: [] };

/** One side's exchanges that are still to be matched, in the order of their starts. */
type Left = readonly ExchangeRow[];

interface Step {
  readonly pairs: readonly Matched[];
  readonly a: Left;
  readonly b: Left;
}

/**
 * Matches the exchanges of two loads, one to one. Symmetric: the sides exchanged give the same pairs exchanged. A load
 * matched with itself gives each exchange with itself. O(n log n) but for many calls of one endpoint with one address.
 */
export function matchLoads(
  a: readonly ExchangeRow[],
  b: readonly ExchangeRow[],
  map: HostMap = new Map(),
  corrections: Corrections = NO_CORRECTIONS,
): Matching {
  const endpoints = new CommonEndpoints([...a, ...b], map);
  const addressOf = (row: ExchangeRow): string => addressIn(row.url, map);
  // What a worker fetched to serve the page is a request of its own beside the page's.
  const roleOf = ({ fetchedFor }: ExchangeRow): string => (fetchedFor === undefined ? '' : 'worker ');
  const requestOf = (row: ExchangeRow): string => roleOf(row) + requestKey({ ...row, url: addressOf(row) });
  const fingerprintOf = (row: ExchangeRow): string => {
    const { method, operation, kind, payloadHash } = row;
    const address = withoutFingerprints(addressOf(row), FILES.has(kind));
    return `${roleOf(row)}${method} ${address} ${operation ?? ''} ${payloadHash ?? ''} ${kind}`;
  };
  const endpointOf = (row: ExchangeRow): string => endpoints.of(row);
  const groupOf = (row: ExchangeRow): string => `${roleOf(row)}${endpointOf(row)} ${row.kind}`;

  const byHand = matchByHand(inOrder(a), inOrder(b), corrections);
  const byRequest = matchInTurn(byHand, requestOf);
  const numberless = (row: ExchangeRow): string => addressOf(row).replace(/\d+/g, '#');
  const byFingerprint = matchAlone(byRequest, fingerprintOf, () => 'fingerprint');
  const byNumbers = matchAlone(
    byFingerprint,
    (row) => `${groupOf(row)} ${numberless(row)}`,
    (one, other) => (addressOf(one) === addressOf(other) ? 'endpoint' : 'numbers'),
  );
  const byEndpoint = matchInGroups(byNumbers, groupOf, (one, other) => matchGroup(one, other, addressOf, numberless));
  const steps = [byHand, byRequest, byFingerprint, byNumbers, byEndpoint];
  const parted = new Set(corrections.parted.map(([one, other]) => `${one} ${other}`));
  const isParted = ({ a: one, b: other, by }: Matched): boolean =>
    by !== 'hand' && parted.has(`${one.index} ${other.index}`);
  const all = steps.flatMap(({ pairs }) => pairs);
  const apart = all.filter(isParted);
  return {
    pairs: all.filter((pair) => !isParted(pair)),
    gone: inOrder([...byEndpoint.a, ...apart.map((pair) => pair.a)]),
    fresh: inOrder([...byEndpoint.b, ...apart.map((pair) => pair.b)]),
    groups: unevenGroups(a, b, endpointOf),
    endpointOf,
  };
}

/** Files are known by their names; of calls and documents the path says what is asked for. */
const FILES: ReadonlySet<Kind> = new Set(['style', 'script', 'font', 'image', 'media']);

const inOrder = (rows: readonly ExchangeRow[]): readonly ExchangeRow[] =>
  rows.toSorted(
    (one, other) =>
      (one.startMs ?? Number.POSITIVE_INFINITY) - (other.startMs ?? Number.POSITIVE_INFINITY) ||
      one.index - other.index,
  );

function matchByHand(a: Left, b: Left, { matched }: Corrections): Step {
  const [inA, inB] = [a, b].map((rows) => new Map(rows.map((row) => [row.index, row])));
  const pairs = matched.flatMap(([one, other]): Matched[] => {
    const [own, theirs] = [inA?.get(one), inB?.get(other)];
    if (own === undefined || theirs === undefined) return [];
    inA?.delete(one);
    inB?.delete(other);
    return [{ a: own, b: theirs, by: 'hand' }];
  });
  return { pairs, a: [...(inA?.values() ?? [])], b: [...(inB?.values() ?? [])] };
}

/** Those with one key in their order: the first with the first, the second with the second. */
function matchInTurn({ a, b }: Step, keyOf: (row: ExchangeRow) => string): Step {
  const waiting = groupBy(b, keyOf);
  const taken = new Map<string, number>();
  const pairs: Matched[] = [];
  const left: ExchangeRow[] = [];
  for (const row of a) {
    const key = keyOf(row);
    const at = taken.get(key) ?? 0;
    const other = waiting.get(key)?.[at];
    if (other === undefined) left.push(row);
    else {
      taken.set(key, at + 1);
      pairs.push({ a: row, b: other, by: 'request' });
    }
  }
  return { pairs, a: left, b: without(b, pairs) };
}

/** Those whose key is only theirs on both sides: of several a fingerprint may be the very name. */
function matchAlone(
  { a, b }: Step,
  keyOf: (row: ExchangeRow) => string,
  byOf: (one: ExchangeRow, other: ExchangeRow) => MatchedBy,
): Step {
  const [inA, inB] = [groupBy(a, keyOf), groupBy(b, keyOf)];
  const pairs: Matched[] = [];
  for (const [key, [one, ...more]] of inA) {
    const [other, ...others] = inB.get(key) ?? [];
    if (other !== undefined && more.length === 0 && others.length === 0)
      pairs.push({ a: one, b: other, by: byOf(one, other) });
  }
  const own = new Set(pairs.map((pair) => pair.a));
  return { pairs, a: a.filter((row) => !own.has(row)), b: without(b, pairs) };
}

/** Calls of one endpoint: those with one address in the order of both sides, and what lies between these by place. */
function matchInGroups(
  { a, b }: Step,
  groupOf: (row: ExchangeRow) => string,
  match: (a: Left, b: Left) => Matched[],
): Step {
  const [inA, inB] = [groupBy(a, groupOf), groupBy(b, groupOf)];
  const pairs: Matched[] = [];
  for (const [key, own] of inA) {
    const others = inB.get(key);
    if (others !== undefined) pairs.push(...match(own, others));
  }
  const own = new Set(pairs.map((pair) => pair.a));
  return { pairs, a: a.filter((row) => !own.has(row)), b: without(b, pairs) };
}

function matchGroup(
  a: Left,
  b: Left,
  addressOf: (row: ExchangeRow) => string,
  numberless: (row: ExchangeRow) => string,
): Matched[] {
  const byAddress = anchorIn(a, b, addressOf, 'endpoint');
  return byAddress.flatMap((stretch) => {
    if (stretch.pair !== undefined) return [stretch.pair];
    return anchorIn(stretch.a, stretch.b, numberless, 'numbers').flatMap((inner) =>
      inner.pair === undefined ? byPlace(inner.a, inner.b) : [inner.pair],
    );
  });
}

/** A pair with one key, or what lies between two such pairs on both sides. */
type Stretch = { readonly pair: Matched } | { readonly pair: undefined; readonly a: Left; readonly b: Left };

/** The longest run of pairs with one key that have the same order on both sides, and what lies between them. */
function anchorIn(a: Left, b: Left, keyOf: (row: ExchangeRow) => string, by: MatchedBy): Stretch[] {
  const [own, others] = [a.map(keyOf), b.map(keyOf)];
  // Of several longest ones that which is found must not hang on which side is which.
  const isTurned = own.join('\n') > others.join('\n');
  const common = isTurned
    ? longestCommon(others, own).map(([one, other]) => [other, one] as const)
    : longestCommon(own, others);
  const stretches: Stretch[] = [];
  let [fromA, fromB] = [0, 0];
  for (const [toA, toB] of [...common, [a.length, b.length] as const]) {
    stretches.push({ pair: undefined, a: a.slice(fromA, toA), b: b.slice(fromB, toB) });
    const [one, other] = [a[toA], b[toB]];
    if (one !== undefined && other !== undefined) stretches.push({ pair: { a: one, b: other, by } });
    [fromA, fromB] = [toA + 1, toB + 1];
  }
  return stretches;
}

const byPlace = (a: Left, b: Left): Matched[] =>
  a.flatMap((one, at) => {
    const other = b[at];
    return other === undefined ? [] : [{ a: one, b: other, by: 'place' as const }];
  });

function without(b: Left, pairs: readonly Matched[]): Left {
  const taken = new Set(pairs.map((pair) => pair.b));
  return b.filter((row) => !taken.has(row));
}

/** Endpoints with several calls of which one side made more than the other, the greatest difference first. */
function unevenGroups(
  a: readonly ExchangeRow[],
  b: readonly ExchangeRow[],
  endpointOf: (row: ExchangeRow) => string,
): MatchedGroup[] {
  const groups = new Map<string, [ExchangeIndex[], ExchangeIndex[]]>();
  for (const [side, rows] of [a, b].entries()) {
    for (const row of rows) {
      const endpoint = endpointOf(row);
      const own = groups.get(endpoint) ?? [[], []];
      groups.set(endpoint, own);
      own[side as 0 | 1].push(row.index);
    }
  }
  return [...groups]
    .map(([endpoint, [inA, inB]]) => ({ endpoint, a: inA, b: inB }))
    .filter((group) => group.a.length !== group.b.length && Math.max(group.a.length, group.b.length) > 1)
    .sort((one, other) => differenceIn(other) - differenceIn(one) || (one.endpoint < other.endpoint ? -1 : 1));
}

const differenceIn = ({ a, b }: MatchedGroup): number => Math.abs(a.length - b.length);
