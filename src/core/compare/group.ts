import type { ExchangeRow } from '../analysis';
import { addTo } from '../collections';
import { medianOf } from './chance';
import { type CommonGoal, commonGoal } from './difference';
import { type Node, PARTS, type PlayState, TIME_PARTS, UnionGraph } from './graph';
import type { HostMap } from './hosts';
import type { ComparedLoad } from './load';
import { matchLoads } from './match';
import { type SideSummary, summarise } from './sides';

/** By what the slow loads may differ from the quick ones. */
export const DIMENSIONS = ['endpoint', 'host', 'phase', 'source', 'status'] as const;
export type Dimension = (typeof DIMENSIONS)[number];

/** What the slow loads share: that much of their difference this alone makes, played on the quick ones' middle load. */
export interface Shared {
  readonly dimension: Dimension;
  /** Of a source or status what it was among the quick and is among the slow: "disk → network". */
  readonly value: string;
  /** The median over the slow loads, in ms. */
  readonly ms: number;
  /** In how many of the slow loads it makes at least a tenth of the difference. */
  readonly inLoads: number;
}

export interface GroupComparison {
  readonly goal: CommonGoal;
  readonly summary: SideSummary;
  /** Places of the loads, slowest first; and how they were told apart. */
  readonly slow: readonly number[];
  /** A wide gap between the two lies where nothing else is; without one the slowest fifth is taken. */
  readonly isApart: boolean;
  /** The median of the slow less that of the quick ones. */
  readonly differenceMs: number;
  /** The quick load that the slow ones are held against: the nearest to their median. */
  readonly quickDrawn: number;
  readonly slowDrawn: number;
  /** Of each dimension what explains most, the dearest first. */
  readonly shared: readonly Shared[];
}

/** Of fewer loads nobody can say what the slow ones share. */
export const LEAST_OF_GROUP = 5;
const SLOW_SHARE = 0.2;
/** The quick and the slow are apart where between them lie so many of the deviations within them: evenly spread values never are. */
const APART_DEVIATIONS = 2;
const NOTED_SHARE = 0.1;
const MOST_VALUES = 400;

/** Tells the slow loads of a group from the quick ones, and looks for what they share. Undefined for fewer than five. */
export function compareGroup(loads: readonly ComparedLoad[], map: HostMap = new Map()): GroupComparison | undefined {
  const goalOf = commonGoal(loads);
  const summary = summarise(loads, goalOf);
  const known = summary.loadsMs.flatMap((ms, at) => (ms === undefined ? [] : [{ at, ms }])).sort((a, b) => b.ms - a.ms);
  if (known.length < LEAST_OF_GROUP) return undefined;
  const { count, isApart } = split(known.map(({ ms }) => ms));
  const [slow, quick] = [known.slice(0, count), known.slice(count)];
  const middleOf = (list: readonly { readonly at: number; readonly ms: number }[]) => {
    const medianMs = medianOf(list.map(({ ms }) => ms)) ?? 0;
    const nearest = list.reduce((best, one) =>
      Math.abs(one.ms - medianMs) < Math.abs(best.ms - medianMs) ? one : best,
    );
    return { medianMs, at: nearest.at };
  };
  const [middleSlow, middleQuick] = [middleOf(slow), middleOf(quick)];
  const reference = loads[middleQuick.at];
  const plays = slow.flatMap(({ at }) => {
    const load = loads[at];
    return load === undefined || reference === undefined ? [] : [explain(reference, load, goalOf.momentsOf, map)];
  });
  return {
    goal: goalOf.goal,
    summary,
    slow: slow.map(({ at }) => at),
    isApart,
    differenceMs: middleSlow.medianMs - middleQuick.medianMs,
    quickDrawn: middleQuick.at,
    slowDrawn: middleSlow.at,
    shared: sharedBy(plays),
  };
}

/** How many of falling values are the slow ones: where the two parts differ most against what is left within them. */
function split(falling: readonly number[]): { readonly count: number; readonly isApart: boolean } {
  let best = { count: 0, within: Number.POSITIVE_INFINITY };
  for (let count = 1; count <= falling.length / 2; count++) {
    const within = spreadOf(falling.slice(0, count)) + spreadOf(falling.slice(count));
    if (within < best.within) best = { count, within };
  }
  const [slow, quick] = [falling.slice(0, best.count), falling.slice(best.count)];
  const deviation = Math.sqrt(best.within / falling.length);
  const betweenMs = (slow.at(-1) ?? 0) - (quick[0] ?? 0);
  const isApart = betweenMs > 0 && betweenMs >= APART_DEVIATIONS * deviation;
  return isApart
    ? { count: best.count, isApart }
    : { count: Math.max(1, Math.round(falling.length * SLOW_SHARE)), isApart };
}

const meanOf = (values: readonly number[]): number =>
  values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length);

/** The sum of the squared distances from the mean. */
function spreadOf(values: readonly number[]): number {
  const mean = meanOf(values);
  return values.reduce((sum, value) => sum + (value - mean) ** 2, 0);
}

interface Explained {
  readonly totalMs: number;
  readonly byValue: ReadonlyMap<string, { readonly dimension: Dimension; readonly value: string; readonly ms: number }>;
}

/** What each endpoint, host, phase, source and status alone makes of a slow load, played on a quick one. */
function explain(
  quick: ComparedLoad,
  slow: ComparedLoad,
  momentsOf: ReturnType<typeof commonGoal>['momentsOf'],
  map: HostMap,
): Explained {
  const byValue = new Map<string, { dimension: Dimension; value: string; ms: number }>();
  const matching = matchLoads(quick.rows, slow.rows, map);
  const graph = UnionGraph.of(
    { rows: quick.rows, moments: momentsOf(quick) },
    { rows: slow.rows, moments: momentsOf(slow) },
    matching,
  );
  if (graph === undefined) return { totalMs: 0, byValue };
  const state = graph.begin();
  const beginMs = graph.play(state).atMs;
  const groups = new Map<
    string,
    { readonly dimension: Dimension; readonly value: string; readonly taken: Uint8Array }
  >();
  const take = (dimension: Dimension, value: string, at: number, bits: number): void => {
    if (bits === 0) return;
    const key = `${dimension} ${value}`;
    const known = groups.get(key);
    if (known === undefined && groups.size >= MOST_VALUES) return;
    const group = known ?? { dimension, value, taken: state.taken.slice() };
    groups.set(key, group);
    group.taken[at] = (group.taken[at] ?? 0) | bits;
  };
  graph.nodes.forEach((node, at) => {
    const row = rowOf(node);
    if (row === undefined) return;
    const bits = node.isGapChange ? node.differs & ~PARTS.start : node.differs;
    take('endpoint', matching.endpointOf(row), at, bits);
    take('host', row.host, at, bits);
    for (const part of TIME_PARTS) if (part !== 'rest') take('phase', part, at, bits & PARTS[part]);
    const { a, b } = node;
    if (a === undefined || b === undefined) return;
    if (a.row.source !== b.row.source) take('source', `${a.row.source} → ${b.row.source}`, at, bits);
    if (a.row.status !== b.row.status)
      take('status', `${a.row.status ?? 'none'} → ${b.row.status ?? 'none'}`, at, bits);
  });
  for (const [key, { dimension, value, taken }] of groups) {
    const played: PlayState = { taken, takesLastGap: false };
    byValue.set(key, { dimension, value, ms: graph.play(played).atMs - beginMs });
  }
  return { totalMs: graph.goalMs.b - graph.goalMs.a, byValue };
}

const rowOf = ({ a, b }: Node): ExchangeRow | undefined => (b ?? a)?.row;

/** Of each dimension what explains most of the median slow load, where that is a tenth of the difference and more. */
function sharedBy(plays: readonly Explained[]): Shared[] {
  const all = new Map<string, Shared[]>();
  const byKey = new Map<string, { dimension: Dimension; value: string; ms: number; totalMs: number }[]>();
  for (const { byValue, totalMs } of plays) {
    for (const [key, one] of byValue) addTo(byKey, key, { ...one, totalMs });
  }
  for (const list of byKey.values()) {
    const [first] = list;
    if (first === undefined) continue;
    // Where a slow load has nothing of it, it makes nothing there.
    const ms = medianOf([...list.map((one) => one.ms), ...Array<number>(plays.length - list.length).fill(0)]) ?? 0;
    const inLoads = list.filter((one) => one.ms >= NOTED_SHARE * one.totalMs && one.ms > 0).length;
    const { dimension, value } = first;
    addTo(all, dimension, { dimension, value, ms, inLoads });
  }
  const totalMs = medianOf(plays.map((one) => one.totalMs)) ?? 0;
  return DIMENSIONS.flatMap((dimension) => {
    const [most] = (all.get(dimension) ?? []).sort((a, b) => b.ms - a.ms);
    return most === undefined || most.ms < NOTED_SHARE * totalMs || most.ms <= 0 ? [] : [most];
  }).sort((a, b) => b.ms - a.ms);
}
