import { type ByteSpan, bytesAt, cumulateBytes } from './bytes';

/** How fast the connection to the network was at its best, and when it gave no more. Times in ms on the spans' axis. */
export interface Rate {
  /** Wire bytes a ms. */
  readonly bytesPerMs: number;
  /** When it was full: for a second and more, with two and more exchanges receiving. */
  readonly full: readonly { readonly fromMs: number; readonly toMs: number }[];
}

/** Over shorter times packets come in bursts. */
const WINDOW_MS = 500;
/** Within a tenth of the best it is as good as the best. */
const FULL_SHARE = 0.9;
/** The best is a burst at times: what was full stays so until clearly less comes. */
const STILL_FULL_SHARE = 0.75;
const LEAST_FULL_MS = 1000;
const LEAST_RECEIVING = 2;
/** Between one download and the next a connection may wait for a response without being any emptier: no longer than is looked at. */
const BLIP_MS = WINDOW_MS;

/**
 * The rate of the connection: the most wire bytes that came in any 500 ms, over that time; and the stretches in which it
 * was full. Undefined where nothing was received, or all of it within less time. O(n log n).
 */
export function findRate(spans: readonly ByteSpan[]): Rate | undefined {
  const points = cumulateBytes(spans);
  const [first] = points;
  const last = points.at(-1);
  if (first === undefined || last === undefined || last.atMs - first.atMs < WINDOW_MS) return undefined;
  // What comes in a window changes its slope only where one of its ends meets a point.
  const starts = points
    .flatMap(({ atMs }) => [atMs, atMs - WINDOW_MS])
    .filter((atMs) => atMs >= first.atMs && atMs + WINDOW_MS <= last.atMs)
    .sort((a, b) => a - b);
  const windows = starts.map((atMs) => ({ atMs, bytes: bytesAt(points, atMs + WINDOW_MS) - bytesAt(points, atMs) }));
  const most = windows.reduce((greatest, { bytes }) => Math.max(greatest, bytes), 0);
  if (most <= 0) return undefined;
  const crowded = crowdedStretches(spans);
  // Between two windows that stand next to each other what comes in one grows or shrinks evenly.
  const full: { fromMs: number; toMs: number }[] = [];
  let wasFull = false;
  for (const { atMs, bytes } of windows) {
    const isFull: boolean = bytes >= most * (wasFull ? STILL_FULL_SHARE : FULL_SHARE);
    const before = full.at(-1);
    if (isFull && before !== undefined && (wasFull || atMs <= before.toMs)) before.toMs = atMs + WINDOW_MS;
    else if (isFull) full.push({ fromMs: atMs, toMs: atMs + WINDOW_MS });
    wasFull = isFull;
  }
  return {
    bytesPerMs: most / WINDOW_MS,
    full: full.flatMap((one) => within(one, crowded)).filter(({ fromMs, toMs }) => toMs - fromMs >= LEAST_FULL_MS),
  };
}

/** When two and more exchanges were receiving. */
function crowdedStretches(spans: readonly ByteSpan[]): { readonly fromMs: number; readonly toMs: number }[] {
  const changes = spans
    .flatMap(({ startMs, timeMs, phases, wireBytes = 0 }) => {
      const endMs = startMs + timeMs;
      const receiveMs = Math.min(timeMs, phases.receiveMs ?? 0);
      return receiveMs <= 0 || wireBytes === 0
        ? []
        : [
            { atMs: endMs - receiveMs, by: 1 },
            { atMs: endMs, by: -1 },
          ];
    })
    .sort((a, b) => a.atMs - b.atMs || b.by - a.by);
  const stretches: { fromMs: number; toMs: number }[] = [];
  let open = 0;
  for (const { atMs, by } of changes) {
    const was = open;
    open += by;
    const last = stretches.at(-1);
    if (was < LEAST_RECEIVING && open >= LEAST_RECEIVING && !(last !== undefined && atMs - last.toMs <= BLIP_MS))
      stretches.push({ fromMs: atMs, toMs: atMs });
    const own = stretches.at(-1);
    if (was >= LEAST_RECEIVING && open < LEAST_RECEIVING && own !== undefined) own.toMs = atMs;
  }
  return stretches;
}

const within = (
  { fromMs, toMs }: { readonly fromMs: number; readonly toMs: number },
  others: readonly { readonly fromMs: number; readonly toMs: number }[],
): { readonly fromMs: number; readonly toMs: number }[] =>
  others.flatMap((other) => {
    const [from, to] = [Math.max(fromMs, other.fromMs), Math.min(toMs, other.toMs)];
    return to > from ? [{ fromMs: from, toMs: to }] : [];
  });
