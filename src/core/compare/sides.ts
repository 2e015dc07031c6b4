import { plotPage } from '../brief';
import type { ExchangeIndex } from '../model';
import { type Interval, intervalOf, medianOf } from './chance';
import { commonGoal } from './difference';
import type { ComparedLoad } from './load';
import { type CompareOptions, compareLoads, type LoadComparison } from './loads';
import { matchLoads } from './match';

/** One side of a comparison: a load, or several. */
export interface SideSummary {
  /** What each load took to the common goal, in ms; undefined where it has no exchange with a start. */
  readonly loadsMs: readonly (number | undefined)[];
  readonly medianMs: number | undefined;
  /** The place of the load that is drawn: the nearest to the median. */
  readonly drawn: number;
}

/** What the loads of a side took for one exchange of the drawn load, in ms. */
export type PairSpread = ReadonlyMap<ExchangeIndex, readonly number[]>;

export interface SidesComparison {
  readonly a: SideSummary;
  readonly b: SideSummary;
  /** B's median less A's; undefined where one of them is not known. */
  readonly differenceMs: number | undefined;
  /** The 95 % interval of that difference; undefined with fewer than three loads a side. */
  readonly interval: Interval | undefined;
  /** The drawn loads beside each other. */
  readonly drawn: LoadComparison;
  /** How the times of what the drawn loads asked for spread over the loads of their side; none for one load. */
  readonly spread: { readonly a: PairSpread; readonly b: PairSpread };
}

/** Compares two sides of one load or more each. */
export function compareSides(
  a: readonly [ComparedLoad, ...ComparedLoad[]],
  b: readonly [ComparedLoad, ...ComparedLoad[]],
  options: CompareOptions = {},
): SidesComparison {
  const goalOf = commonGoal([...a, ...b]);
  const [sideA, sideB] = [summarise(a, goalOf), summarise(b, goalOf)];
  const [drawnA, drawnB] = [a[sideA.drawn] ?? a[0], b[sideB.drawn] ?? b[0]];
  const known = ({ loadsMs }: SideSummary): number[] => loadsMs.filter((ms) => ms !== undefined);
  const isKnown = sideA.medianMs !== undefined && sideB.medianMs !== undefined;
  return {
    a: sideA,
    b: sideB,
    differenceMs: isKnown ? (sideB.medianMs ?? 0) - (sideA.medianMs ?? 0) : undefined,
    interval: intervalOf(known(sideA), known(sideB)),
    drawn: compareLoads(drawnA, drawnB, { ...options, goalOf }),
    spread: { a: spreadOf(drawnA, a, options), b: spreadOf(drawnB, b, options) },
  };
}

/** The places of the loads that would be drawn: those nearest to the medians of their sides. */
export function findDrawn(
  a: readonly ComparedLoad[],
  b: readonly ComparedLoad[],
): { readonly a: number; readonly b: number } {
  const goalOf = commonGoal([...a, ...b]);
  return { a: summarise(a, goalOf).drawn, b: summarise(b, goalOf).drawn };
}

/** What each load takes, and which of them is the nearest to the middle: of two as near the first. */
export function summarise(loads: readonly ComparedLoad[], { momentsOf }: ReturnType<typeof commonGoal>): SideSummary {
  const loadsMs = loads.map((load) => {
    const route = plotPage(load.rows, momentsOf(load));
    return route === undefined ? undefined : route.targetMs - route.originMs;
  });
  const medianMs = medianOf(loadsMs.filter((ms) => ms !== undefined));
  let [drawn, nearest] = [0, Number.POSITIVE_INFINITY];
  for (const [at, ms] of loadsMs.entries()) {
    const offMs = ms === undefined || medianMs === undefined ? Number.POSITIVE_INFINITY : Math.abs(ms - medianMs);
    if (offMs < nearest) [drawn, nearest] = [at, offMs];
  }
  return { loadsMs, medianMs, drawn };
}

function spreadOf(
  drawn: ComparedLoad,
  loads: readonly ComparedLoad[],
  { map = new Map() }: CompareOptions,
): PairSpread {
  const spread = new Map<ExchangeIndex, number[]>();
  if (loads.length < 2) return spread;
  for (const row of drawn.rows) if (row.timeMs !== undefined) spread.set(row.index, [row.timeMs]);
  for (const load of loads) {
    if (load === drawn) continue;
    for (const { a: own, b: other } of matchLoads(drawn.rows, load.rows, map).pairs)
      if (other.timeMs !== undefined) spread.get(own.index)?.push(other.timeMs);
  }
  return spread;
}
