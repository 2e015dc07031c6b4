import type { ExchangeIndex } from '../model';
import { CLOCK_RESOLUTION_MS } from './clock';
import { countUpTo } from './sorted';
import { type Holds, type RouteLink, type RouteStop, Waits } from './waits';

/** A piece of the route, [startMs, endMs), in ms since the page's start. */
export type Leg =
  | {
      readonly type: 'exchange';
      readonly index: ExchangeIndex;
      readonly startMs: number;
      readonly endMs: number;
      /** How it hangs on the leg before; absent for the first. */
      readonly link: RouteLink | undefined;
    }
  | GapLeg;

/** Time in which nothing was under way that the goal is known to have waited for. */
export interface GapLeg {
  readonly type: 'gap';
  readonly startMs: number;
  readonly endMs: number;
  /** What stands at its ends; absent at the route's own. */
  readonly after: ExchangeIndex | undefined;
  readonly before: ExchangeIndex | undefined;
  /** It is the pause before `before`, the same request as `after`, which had failed. */
  readonly isPause: boolean;
  /** What was in flight meanwhile, in order of the starts. */
  readonly meanwhile: readonly ExchangeIndex[];
  /** Time in which nothing at all was in flight. */
  readonly idleMs: number;
}

/** Where a route leads: a milestone, with DOM ready's moment where loaded is asked for; any moment; or an exchange's end. */
export type Goal =
  | { readonly type: 'loaded'; readonly atMs: number; readonly readyMs: number | undefined }
  | { readonly type: 'ready'; readonly atMs: number }
  | { readonly type: 'moment'; readonly atMs: number }
  | { readonly type: 'exchange'; readonly atMs: number; readonly index: ExchangeIndex };

/**
 * The one chain that a goal waited for, walked back from what ended last of that which it waits for. Its legs tile
 * [originMs, goal) without overlap or hole. O(n log n).
 * @param aside what no goal waits for, and is in flight all the same
 */
export function plotRoute(
  stops: readonly RouteStop[],
  originMs: number,
  goal: Goal,
  aside: readonly RouteStop[] = [],
): Leg[] {
  const { atMs } = goal;
  if (atMs <= originMs) return [];
  const waits = new Waits(stops);
  const legs: Leg[] = [];
  let cursor = atMs;
  let later: { readonly stop: RouteStop; readonly link: RouteLink | undefined } | undefined;
  let stop = findLast(stops, originMs, goal);
  const gap = (startMs: number, after: RouteStop | undefined): void => {
    legs.push({
      type: 'gap',
      startMs,
      endMs: cursor,
      after: after?.index,
      before: later?.stop.index,
      isPause: later?.link === 'retry',
      meanwhile: [],
      idleMs: cursor - startMs,
    });
  };
  // Played loads may have an exchange begin before what it waited for: nobody is waited for twice.
  const walked = new Set<ExchangeIndex>();
  while (stop !== undefined && cursor > originMs && !walked.has(stop.index)) {
    walked.add(stop.index);
    const untilMs = later === undefined && goal.type !== 'exchange' ? stop.heldUntilMs : stop.endMs;
    const endMs = Math.min(untilMs, cursor);
    if (endMs < cursor) gap(endMs, stop);
    const startMs = Math.max(stop.startMs, originMs);
    const waited = waits.of(stop);
    if (startMs < endMs) legs.push({ type: 'exchange', index: stop.index, startMs, endMs, link: waited?.link });
    cursor = Math.min(startMs, endMs);
    later = { stop, link: waited?.link };
    stop = waited !== undefined && waited.stop.endMs > originMs ? waited.stop : undefined;
  }
  if (cursor > originMs) gap(originMs, undefined);
  return withMeanwhile(legs.reverse(), [...stops, ...aside]);
}

/** What every stop waited for, by the same judgement as the route's. Those that waited for nothing known have none. */
export function findWaits(
  stops: readonly RouteStop[],
): ReadonlyMap<ExchangeIndex, { readonly stop: RouteStop; readonly link: RouteLink }> {
  const waits = new Waits(stops);
  return new Map(
    stops.flatMap((stop) => {
      const waited = waits.of(stop);
      return waited === undefined || waited.stop.startMs >= stop.startMs ? [] : [[stop.index, waited] as const];
    }),
  );
}

/**
 * Where the walk back begins: of what the goal waits for, what ended last by it. Loaded comes after DOM ready: where all
 * else had ended before that, what DOM ready waited for was waited for last. Where nothing had ended by the goal, clocks
 * differ or a page loads in pieces: the document was waited for as far as it had come.
 */
function findLast(stops: readonly RouteStop[], originMs: number, goal: Goal): RouteStop | undefined {
  if (goal.type === 'exchange') return stops.find(({ index }) => index === goal.index);
  const { type, atMs } = goal;
  const lastOf = (holds: readonly (Holds | undefined)[], byMs: number): RouteStop | undefined => {
    let last: RouteStop | undefined;
    for (const stop of stops) {
      const { heldUntilMs } = stop;
      if (!holds.includes(stop.holds) || heldUntilMs > byMs + CLOCK_RESOLUTION_MS || heldUntilMs <= originMs) continue;
      if (last === undefined || heldUntilMs > last.heldUntilMs) last = stop;
    }
    return last;
  };
  const last = lastOf(type === 'ready' ? ['ready'] : ['ready', 'loaded'], atMs) ?? firstDocument(stops, atMs);
  const readyMs = type === 'loaded' ? goal.readyMs : undefined;
  if (readyMs === undefined || readyMs > atMs || (last !== undefined && last.heldUntilMs > readyMs)) return last;
  return lastOf(['ready'], readyMs) ?? last;
}

/** The document that was asked for first, in whatever order they are given; else, where none is known, what ended last. */
function firstDocument(stops: readonly RouteStop[], atMs: number): RouteStop | undefined {
  const documents = stops.filter(({ kind, startMs }) => kind === 'document' && startMs < atMs);
  if (documents.length > 0) {
    return documents.reduce((first, stop) =>
      stop.startMs < first.startMs || (stop.startMs === first.startMs && stop.index < first.index) ? stop : first,
    );
  }
  return stops
    .filter(({ kind, endMs }) => kind !== 'socket' && kind !== 'stream' && endMs <= atMs)
    .reduce<RouteStop | undefined>(
      (last, stop) => (last === undefined || stop.endMs > last.endMs ? stop : last),
      undefined,
    );
}

/** The legs with what was in flight in their gaps. */
function withMeanwhile(legs: readonly Leg[], stops: readonly RouteStop[]): Leg[] {
  const gaps = legs.filter((leg) => leg.type === 'gap');
  const inside = new Map<GapLeg, RouteStop[]>(gaps.map((gap) => [gap, []]));
  for (const stop of [...stops].sort((a, b) => a.startMs - b.startMs || a.index - b.index)) {
    for (let at = countUpTo(gaps, ({ endMs }) => endMs, stop.startMs); at < gaps.length; at++) {
      const gap = gaps[at];
      if (gap === undefined || gap.startMs >= stop.endMs) break;
      // What stands at an end may reach into the gap by what starts are rounded to.
      const overlapMs = Math.min(stop.endMs, gap.endMs) - Math.max(stop.startMs, gap.startMs);
      const isEnd = stop.index === gap.after || stop.index === gap.before;
      if (overlapMs > (isEnd ? CLOCK_RESOLUTION_MS : 0)) inside.get(gap)?.push(stop);
    }
  }
  return legs.map((leg): Leg => {
    if (leg.type !== 'gap') return leg;
    const meanwhile = inside.get(leg) ?? [];
    return { ...leg, meanwhile: meanwhile.map(({ index }) => index), idleMs: idleWithin(leg, meanwhile) };
  });
}

/** Time of a gap in which none of the stops was in flight. @param stops in the order of their starts */
function idleWithin({ startMs, endMs }: GapLeg, stops: readonly RouteStop[]): number {
  let reachedMs = startMs;
  let idleMs = 0;
  for (const stop of stops) {
    idleMs += Math.max(0, Math.min(stop.startMs, endMs) - reachedMs);
    reachedMs = Math.max(reachedMs, Math.min(stop.endMs, endMs));
  }
  return idleMs + Math.max(0, endMs - reachedMs);
}
