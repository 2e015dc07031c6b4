import type { ExchangeRow } from '#core/analysis';
import { groupBy } from '#core/collections';
import {
  type Cause,
  type Causes,
  DELTAS,
  type DeltaName,
  deltaOf,
  type LoadComparison,
  type Pair,
  tellCause,
} from '#core/compare';
import type { ComparedColumns, DeltaField } from '#core/filter';
import type { ShownSides } from './use-compared';

/** A pair as it is drawn. */
export interface ShownPair {
  readonly key: string;
  readonly pair: Pair;
  readonly a: ExchangeRow | undefined;
  readonly b: ExchangeRow | undefined;
  /** What it did to the load by itself, or together with others of its endpoint. */
  readonly did: { readonly ms: number; readonly others: number; readonly why: string } | undefined;
}

export const keyOfPair = ({ a, b }: Pick<Pair, 'a' | 'b'>): string => `${a ?? ''}-${b ?? ''}`;

/** The pairs of a comparison with their exchanges, in the order of their starts. */
export function showPairs({ a, b, compared }: ShownSides): ShownPair[] {
  const did = causedBy(compared.drawn.causes, (cause) => tellCause(cause, a.rowOf, b.rowOf));
  return compared.drawn.pairs.map((pair) => {
    const [own, other] = [a.rowOf(pair.a), b.rowOf(pair.b)];
    const key = keyOfPair(pair);
    return { key, pair, a: own, b: other, did: did.get(key) };
  });
}

function causedBy(
  causes: Causes | undefined,
  tell: (cause: Cause) => string,
): ReadonlyMap<string, NonNullable<ShownPair['did']>> {
  return new Map(
    (causes?.causes ?? []).flatMap((cause) => {
      const { ms, played } = cause;
      const did = { ms, others: played.length - 1, why: tell(cause) };
      return played.map((one) => [keyOfPair(one), did] as const);
    }),
  );
}

/** How pairs are arranged: by what they did, by start, or by the difference of a measure, the greatest first. */
export const PAIR_ORDERS = {
  did: 'what each did to the difference',
  start: 'start',
  ...({
    time: 'difference of duration',
    wait: 'difference of wait',
    blocked: 'difference of blocked',
    setup: 'difference of connection set-up',
    receive: 'difference of receive',
    wire: 'difference of wire bytes',
    body: 'difference of body bytes',
  } satisfies Record<Exclude<DeltaName, 'start'>, string>),
} as const;
export type PairOrder = keyof typeof PAIR_ORDERS;
export const findPairOrder = (name: string | undefined): PairOrder =>
  (Object.keys(PAIR_ORDERS) as PairOrder[]).find((order) => order === name) ?? 'did';

/** Pairs in order; of equals the one that started first comes first. */
export function arrangePairs(pairs: readonly ShownPair[], order: PairOrder): readonly ShownPair[] {
  if (order === 'start') return pairs;
  const rank = ({ a, b, did }: ShownPair): readonly [number, number] => {
    if (order !== 'did') return [Math.abs(deltaOf(order, a, b) ?? 0), 0];
    // What did nothing comes behind, by how much its own time changed; what is on one side alone last.
    return [Math.abs(did?.ms ?? 0), Math.abs(deltaOf('time', a, b) ?? 0)];
  };
  return pairs
    .map((pair, at) => ({ pair, at, rank: rank(pair) }))
    .sort((one, other) => other.rank[0] - one.rank[0] || other.rank[1] - one.rank[1] || one.at - other.at)
    .map(({ pair }) => pair);
}

/** The pairs of an endpoint that are told as one. */
interface PairsOfEndpoint {
  readonly type: 'group';
  readonly key: string;
  readonly endpoint: string;
  /** What they did together; absent where only their numbers differ. */
  readonly cause: Cause | undefined;
  readonly members: readonly ShownPair[];
}

/** What stands in the list, whatever is folded. */
export type GroupedPair = ShownPair | PairsOfEndpoint;

/** What stands in the list as it is drawn: a pair, or those of an endpoint. */
export type ListedRow =
  | { readonly type: 'pair'; readonly key: string; readonly shown: ShownPair; readonly isInGroup: boolean }
  | (PairsOfEndpoint & { readonly isFolded: boolean });

/** So many more or fewer calls of an endpoint are told as one; one more or less is a pair of its own. */
const GROUPED_FROM = 2;

/**
 * Arranged by what they did, the pairs that one cause is about stand under one row, and so do the calls of an endpoint that
 * one side made more of, but for those that did something by themselves. In any other order each stands by itself.
 */
export function groupPairs(
  arranged: readonly ShownPair[],
  order: PairOrder,
  { causes, groups }: Pick<LoadComparison, 'causes' | 'groups'>,
): readonly GroupedPair[] {
  if (order !== 'did') return arranged;
  const causeOf = new Map<string, Cause>();
  for (const cause of causes?.causes ?? [])
    if (cause.endpoint !== undefined) for (const one of cause.played) causeOf.set(keyOfPair(one), cause);
  const uneven = new Set(
    groups.flatMap(({ endpoint, a, b }) => (Math.abs(a.length - b.length) >= GROUPED_FROM ? [endpoint] : [])),
  );
  const groupOf = ({ key, pair, did }: ShownPair): string | undefined => {
    const endpoint = causeOf.get(key)?.endpoint;
    if (endpoint !== undefined) return `group ${endpoint}`;
    return did === undefined && uneven.has(pair.endpoint) ? `numbers ${pair.endpoint}` : undefined;
  };
  const members = groupBy(arranged, groupOf);
  const done = new Set<string>();
  return arranged.flatMap((shown): GroupedPair[] => {
    const key = groupOf(shown);
    const own = key === undefined ? undefined : members.get(key);
    if (key === undefined || own === undefined || own.length < GROUPED_FROM) return [shown];
    if (done.has(key)) return [];
    done.add(key);
    const cause = causeOf.get(shown.key);
    return [{ type: 'group', key, endpoint: cause?.endpoint ?? shown.pair.endpoint, cause, members: own }];
  });
}

/** The list as it is drawn: groups are folded unless they were turned. */
export function listRows(grouped: readonly GroupedPair[], turned: readonly string[]): ListedRow[] {
  const single = (shown: ShownPair, isInGroup: boolean): ListedRow => ({
    type: 'pair',
    key: shown.key,
    shown,
    isInGroup,
  });
  return grouped.flatMap((one): ListedRow[] => {
    if (!('type' in one)) return [single(one, false)];
    const isFolded = !turned.includes(one.key);
    const head: ListedRow = { ...one, isFolded };
    return isFolded ? [head] : [head, ...one.members.map((member) => single(member, true))];
  });
}

/** What the filter asks of rows that stand beside another load's: made when it first does. */
export function comparedColumns(
  rows: readonly ExchangeRow[],
  pairs: readonly ShownPair[],
  side: 'a' | 'b',
): ComparedColumns {
  let made: ComparedColumns | undefined;
  const columns = (): ComparedColumns => {
    made ??= makeColumns(rows, pairs, side);
    return made;
  };
  return {
    get changes() {
      return columns().changes;
    },
    get deltas() {
      return columns().deltas;
    },
  };
}

function makeColumns(rows: readonly ExchangeRow[], pairs: readonly ShownPair[], side: 'a' | 'b'): ComparedColumns {
  const places = new Map(rows.map(({ index }, at) => [index, at]));
  const changes = rows.map(() => '');
  const deltas = Object.fromEntries(
    DELTAS.map((name) => [`delta.${name}`, new Float64Array(rows.length).fill(Number.NaN)]),
  ) as Record<DeltaField, Float64Array>;
  for (const { pair, a, b } of pairs) {
    const at = places.get((side === 'a' ? a : b)?.index ?? (-1 as never));
    if (at === undefined) continue;
    changes[at] = pair.changes.join('\n');
    for (const name of DELTAS) {
      const delta = deltaOf(name, a, b);
      if (delta !== undefined) deltas[`delta.${name}`][at] = delta;
    }
  }
  return { changes, deltas };
}

/** The pairs of which either exchange is let through. Masks are in the order of the rows that they are of. */
export function filterPairs(
  pairs: readonly ShownPair[],
  a: { readonly rows: readonly ExchangeRow[]; readonly mask: Uint8Array },
  b: { readonly rows: readonly ExchangeRow[]; readonly mask: Uint8Array },
): readonly ShownPair[] {
  const passing = ({ rows, mask }: typeof a): Uint8Array => {
    const flags = new Uint8Array(rows.reduce((most, { index }) => Math.max(most, index + 1), 0));
    for (const [at, { index }] of rows.entries()) flags[index] = mask[at] ?? 0;
    return flags;
  };
  const [ofA, ofB] = [passing(a), passing(b)];
  return pairs.filter(
    ({ pair }) => (pair.a !== undefined && ofA[pair.a] === 1) || (pair.b !== undefined && ofB[pair.b] === 1),
  );
}
