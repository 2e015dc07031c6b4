import type { ExchangeIndex, Kind } from '../model';

/** What the route needs of an exchange. Times in ms since the page's start, `endMs` not before `startMs`. */
export interface RouteStop {
  readonly index: ExchangeIndex;
  readonly kind: Kind;
  readonly startMs: number;
  readonly endMs: number;
  readonly parent: ExchangeIndex | undefined;
}

/** A piece of the route, [startMs, endMs). Browser work says which exchanges stand at its ends. */
export type Leg =
  | { readonly type: 'exchange'; readonly index: ExchangeIndex; readonly startMs: number; readonly endMs: number }
  | {
      readonly type: 'browser';
      readonly startMs: number;
      readonly endMs: number;
      readonly after: ExchangeIndex | undefined;
      readonly before: ExchangeIndex | undefined;
    };

/** A wait between a parent's end and its child's start that something else may explain. */
const LONG_GAP_MS = 30;
/** What blocked the parser ended at most this long before what it held up started. */
const SHORTLY_MS = 30;

/**
 * The one chain that the load waited for, walked back from the exchange that ended last at or before the target. Its
 * legs tile [originMs, targetMs] without overlap or hole. Sockets and streams last as long as the page: they are never
 * on it by lasting.
 */
export function plotRoute(stops: readonly RouteStop[], originMs: number, targetMs: number): Leg[] {
  if (targetMs <= originMs) return [];
  const byIndex = new Map(stops.map((stop) => [stop.index, stop]));
  const blockers = findBlockers(stops);
  const legs: Leg[] = [];
  let cursor = targetMs;
  let later: RouteStop | undefined;
  let stop = findLastToEnd(stops, originMs, targetMs);
  while (stop !== undefined && cursor > originMs) {
    const endMs = Math.min(stop.endMs, cursor);
    if (endMs < cursor) {
      legs.push({ type: 'browser', startMs: endMs, endMs: cursor, after: stop.index, before: later?.index });
    }
    const startMs = Math.max(stop.startMs, originMs);
    if (startMs < endMs) legs.push({ type: 'exchange', index: stop.index, startMs, endMs });
    cursor = Math.min(startMs, endMs);
    later = stop;
    const waitedFor = findWaitedFor(stop, blockers, byIndex);
    stop = waitedFor !== undefined && waitedFor.endMs > originMs ? waitedFor : undefined;
  }
  if (cursor > originMs) {
    legs.push({ type: 'browser', startMs: originMs, endMs: cursor, after: undefined, before: later?.index });
  }
  return legs.reverse();
}

function findLastToEnd(stops: readonly RouteStop[], originMs: number, targetMs: number): RouteStop | undefined {
  let last: RouteStop | undefined;
  for (const stop of stops) {
    if (stop.kind === 'socket' || stop.kind === 'stream' || stop.endMs > targetMs || stop.endMs <= originMs) continue;
    if (last === undefined || stop.endMs > last.endMs) last = stop;
  }
  return last;
}

/** What can hold a parser up, by the exchange that asked for it. */
function findBlockers(stops: readonly RouteStop[]): ReadonlyMap<ExchangeIndex, readonly RouteStop[]> {
  const blockers = new Map<ExchangeIndex, RouteStop[]>();
  for (const stop of stops) {
    if ((stop.kind !== 'script' && stop.kind !== 'style') || stop.parent === undefined) continue;
    const siblings = blockers.get(stop.parent);
    if (siblings === undefined) blockers.set(stop.parent, [stop]);
    else siblings.push(stop);
  }
  return blockers;
}

/** What a stop waited for: its parent, or the script or style that held the parser up until shortly before. */
function findWaitedFor(
  stop: RouteStop,
  blockers: ReadonlyMap<ExchangeIndex, readonly RouteStop[]>,
  byIndex: ReadonlyMap<ExchangeIndex, RouteStop>,
): RouteStop | undefined {
  const parent = stop.parent === undefined ? undefined : byIndex.get(stop.parent);
  if (parent === undefined || stop.startMs - parent.endMs < LONG_GAP_MS) return parent;
  let blocker: RouteStop | undefined;
  for (const other of blockers.get(parent.index) ?? []) {
    const endedInside = other.endMs > parent.endMs && other.endMs <= stop.startMs && other.startMs < stop.startMs;
    if (!endedInside || stop.startMs - other.endMs > SHORTLY_MS) continue;
    if (blocker === undefined || other.endMs > blocker.endMs) blocker = other;
  }
  return blocker ?? parent;
}
