import type { ExchangeIndex, Kind } from '../model';
import { CLOCK_RESOLUTION_MS } from './clock';
import { countUpTo } from './sorted';

/** What the route needs of an exchange. Times in ms since the page's start, `endMs` not before `startMs`. */
export interface RouteStop {
  readonly index: ExchangeIndex;
  readonly kind: Kind;
  readonly startMs: number;
  readonly endMs: number;
  readonly parent: ExchangeIndex | undefined;
  /** The exchange whose body names it. */
  readonly namedBy: ExchangeIndex | undefined;
  /** Method and address: the same for a request that is sent again. */
  readonly request: string;
}

/**
 * How a stop hangs on the one it waited for: its parent; what named it, where that came later than the parent; or what
 * held up whoever asked for it.
 */
export type RouteLink = 'parent' | 'named' | 'held-up';

/** A piece of the route, [startMs, endMs). Browser work says which exchanges stand at its ends. */
export type Leg =
  | {
      readonly type: 'exchange';
      readonly index: ExchangeIndex;
      readonly startMs: number;
      readonly endMs: number;
      /** How it hangs on the leg before; absent for the first. */
      readonly link: RouteLink | undefined;
    }
  | {
      readonly type: 'browser';
      readonly startMs: number;
      readonly endMs: number;
      readonly after: ExchangeIndex | undefined;
      readonly before: ExchangeIndex | undefined;
    };

/** A wait between a parent's end and its child's start that something else may explain. */
const LONG_GAP_MS = 30;
/** A script or style that held others up ended at most this long before they started. */
const SHORTLY_MS = 60;
/** A call that another one waited for ended at most this long before. */
const AT_ONCE_MS = 15;
/** A page that made calls for so long before it asked for something was not at work on that all the while. */
const SESSION_GAP_MS = 1000;
/** A page that makes more calls than these between two tries does not wait for the second. */
const MOST_IN_PAUSE = 2;

/**
 * The one chain that the load waited for, walked back from the exchange that ended last at or before the target. Its
 * legs tile [originMs, targetMs] without overlap or hole. Sockets and streams last as long as the page: they are never
 * on it by lasting.
 */
export function plotRoute(stops: readonly RouteStop[], originMs: number, targetMs: number): Leg[] {
  if (targetMs <= originMs) return [];
  const byIndex = new Map(stops.map((stop) => [stop.index, stop]));
  const byEnd = [...stops].sort((a, b) => a.endMs - b.endMs);
  const legs: Leg[] = [];
  let cursor = targetMs;
  let later: RouteStop | undefined;
  let stop = findLastToEnd(stops, originMs, targetMs);
  // Played loads may have an exchange begin before what it waited for: nobody is waited for twice.
  const walked = new Set<ExchangeIndex>();
  while (stop !== undefined && cursor > originMs && !walked.has(stop.index)) {
    walked.add(stop.index);
    const endMs = Math.min(stop.endMs, cursor);
    if (endMs < cursor) {
      legs.push({ type: 'browser', startMs: endMs, endMs: cursor, after: stop.index, before: later?.index });
    }
    const startMs = Math.max(stop.startMs, originMs);
    const waited = findWaitedFor(stop, byEnd, byIndex);
    if (startMs < endMs) legs.push({ type: 'exchange', index: stop.index, startMs, endMs, link: waited?.link });
    cursor = Math.min(startMs, endMs);
    later = stop;
    stop = waited !== undefined && waited.stop.endMs > originMs ? waited.stop : undefined;
  }
  if (cursor > originMs) {
    legs.push({ type: 'browser', startMs: originMs, endMs: cursor, after: undefined, before: later?.index });
  }
  return legs.reverse();
}

/** What every stop waited for, by the same judgement as the route's. Those that waited for nothing known have none. */
export function findWaits(stops: readonly RouteStop[]): ReadonlyMap<ExchangeIndex, Waited> {
  const byIndex = new Map(stops.map((stop) => [stop.index, stop]));
  const byEnd = [...stops].sort((a, b) => a.endMs - b.endMs);
  return new Map(
    stops.flatMap((stop): [ExchangeIndex, Waited][] => {
      const waited = findWaitedFor(stop, byEnd, byIndex);
      return waited === undefined || waited.stop.startMs >= stop.startMs ? [] : [[stop.index, waited]];
    }),
  );
}

/**
 * Where the walk back begins. Where nothing had ended by the target, recorders' clocks differ or a page loads in pieces:
 * the document was waited for as far as it had come.
 */
function findLastToEnd(stops: readonly RouteStop[], originMs: number, targetMs: number): RouteStop | undefined {
  let last: RouteStop | undefined;
  for (const stop of stops) {
    if (stop.kind === 'socket' || stop.kind === 'stream' || stop.endMs > targetMs || stop.endMs <= originMs) continue;
    if (last === undefined || stop.endMs > last.endMs) last = stop;
  }
  if (last !== undefined) return last;
  // The first of them, in whatever order they are given.
  return stops
    .filter(({ kind, startMs }) => kind === 'document' && startMs < targetMs)
    .reduce<RouteStop | undefined>(
      (first, stop) =>
        first === undefined ||
        stop.startMs < first.startMs ||
        (stop.startMs === first.startMs && stop.index < first.index)
          ? stop
          : first,
      undefined,
    );
}

export interface Waited {
  readonly stop: RouteStop;
  readonly link: RouteLink;
}

/**
 * What a stop waited for. Its parent, where it starts soon after that has ended or while it still comes. After a longer
 * gap, what ended inside it: the same request before, which is sent again; the answer that named it; a script or style
 * that ended shortly before (the parser, or the modules that one imports, waited for it), or one that the document asks
 * for and that took up most of the gap (running it took the rest); for a call, another call that ended just before.
 */
function findWaitedFor(
  stop: RouteStop,
  byEnd: readonly RouteStop[],
  byIndex: ReadonlyMap<ExchangeIndex, RouteStop>,
): Waited | undefined {
  const parent = stop.parent === undefined ? undefined : byIndex.get(stop.parent);
  if (parent === undefined) return undefined;
  const own: Waited = { stop: parent, link: 'parent' };
  if (stop.startMs - parent.endMs < LONG_GAP_MS) return own;
  const isInside = (other: RouteStop): boolean =>
    other.index !== stop.index &&
    other.endMs > parent.endMs &&
    other.endMs <= stop.startMs + CLOCK_RESOLUTION_MS &&
    other.startMs < stop.startMs;
  const earlier = byEnd.findLast((other) => other.request === stop.request && isInside(other));
  if (earlier !== undefined) return { stop: findCallBefore(stop, earlier.endMs, byEnd) ?? earlier, link: 'held-up' };
  const named = stop.namedBy === undefined ? undefined : byIndex.get(stop.namedBy);
  if (named !== undefined && isInside(named)) return { stop: named, link: 'named' };
  // From the last that had ended when it started, back to where nothing counts any more.
  for (let at = countEndedBy(byEnd, stop.startMs + CLOCK_RESOLUTION_MS) - 1; at >= 0; at--) {
    const other = byEnd[at];
    const agoMs = stop.startMs - (other?.endMs ?? 0);
    if (other === undefined || agoMs > Math.max(SHORTLY_MS, other.endMs - parent.endMs)) break;
    const isShortly = agoMs <= SHORTLY_MS;
    if (isInside(other) && (isShortly ? canHoldUp(other, stop) : canBlock(other, byIndex))) {
      return { stop: other, link: 'held-up' };
    }
  }
  const isSession = stop.startMs - parent.endMs >= SESSION_GAP_MS;
  const call = isSession ? findCallBefore(stop, parent.endMs, byEnd) : undefined;
  return call === undefined ? own : { stop: call, link: 'held-up' };
}

/**
 * The call since a moment that a stop waited for: one that ended just before it, as a token's renewal does before the
 * next try; and where there were many, the last of them: the page went on meanwhile, and did not pause.
 */
function findCallBefore(stop: RouteStop, sinceMs: number, byEnd: readonly RouteStop[]): RouteStop | undefined {
  let last: RouteStop | undefined;
  let count = 0;
  for (let at = countEndedBy(byEnd, stop.startMs + CLOCK_RESOLUTION_MS) - 1; at >= 0; at--) {
    const other = byEnd[at];
    if (other === undefined || other.endMs < sinceMs || count > MOST_IN_PAUSE) break;
    const isBetween = other.startMs >= sinceMs - CLOCK_RESOLUTION_MS && other.startMs < stop.startMs;
    if (other.index === stop.index || !isBetween || other.kind !== 'data') continue;
    if (stop.startMs - other.endMs <= AT_ONCE_MS) return other;
    last ??= other;
    count++;
  }
  return count > MOST_IN_PAUSE ? last : undefined;
}

/** Whether a document asked for it, of the kind that its parser and its modules wait for. */
const canBlock = (other: RouteStop, byIndex: ReadonlyMap<ExchangeIndex, RouteStop>): boolean =>
  (other.kind === 'script' || other.kind === 'style') &&
  other.parent !== undefined &&
  byIndex.get(other.parent)?.kind === 'document';

function canHoldUp(other: RouteStop, stop: RouteStop): boolean {
  if (other.kind === 'script' || other.kind === 'style') return true;
  return other.kind === 'data' && stop.kind === 'data' && stop.startMs - other.endMs <= AT_ONCE_MS;
}

/** How many of the stops, in order of their ends, had ended by a moment. */
const countEndedBy = (byEnd: readonly RouteStop[], ms: number): number => countUpTo(byEnd, ({ endMs }) => endMs, ms);
