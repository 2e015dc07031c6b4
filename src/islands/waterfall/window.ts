import type { TimeWindow } from '../state/address';

// Zooming and panning as arithmetic. A window never leaves the load by more than half of itself.

/** Nothing is shown closer than 1 ms across the screen. */
const LEAST_SPAN_MS = 1;

/** Makes a window valid: at least 1 ms long, in order, and on the load; all of the load where it is as long. */
export function fitWindow(window: TimeWindow, whole: TimeWindow): TimeWindow | undefined {
  const wholeMs = whole.toMs - whole.fromMs;
  const spanMs = Math.max(LEAST_SPAN_MS, window.toMs - window.fromMs);
  if (spanMs >= wholeMs) return undefined;
  const fromMs = Math.min(Math.max(window.fromMs, whole.fromMs), whole.toMs - spanMs);
  return { fromMs, toMs: fromMs + spanMs };
}

/** Zooms by a factor (over 1: closer) about a moment, which stays where it is on the screen. */
export function zoomAbout(window: TimeWindow, atMs: number, factor: number, whole: TimeWindow): TimeWindow | undefined {
  const spanMs = Math.max(LEAST_SPAN_MS, (window.toMs - window.fromMs) / factor);
  const share = (atMs - window.fromMs) / (window.toMs - window.fromMs);
  const fromMs = atMs - share * spanMs;
  return fitWindow({ fromMs, toMs: fromMs + spanMs }, whole);
}

/** Moves a window by a share of its own length; positive is later. */
export function pan(window: TimeWindow, share: number, whole: TimeWindow): TimeWindow | undefined {
  const byMs = (window.toMs - window.fromMs) * share;
  return fitWindow({ fromMs: window.fromMs + byMs, toMs: window.toMs + byMs }, whole);
}

/** Room left of and right of what is zoomed to, as a share of its length. */
const ROOM = 0.08;

/** The window that shows all of these stretches with a little room; undefined where there are none. */
export function windowOver(
  stretches: readonly { readonly startMs: number | undefined; readonly endMs: number | undefined }[],
  whole: TimeWindow,
): TimeWindow | undefined {
  let fromMs = Number.POSITIVE_INFINITY;
  let toMs = Number.NEGATIVE_INFINITY;
  for (const { startMs, endMs } of stretches) {
    if (startMs !== undefined) fromMs = Math.min(fromMs, startMs);
    if (endMs !== undefined) toMs = Math.max(toMs, endMs);
  }
  if (toMs < fromMs) return undefined;
  const room = Math.max(LEAST_SPAN_MS / 2, (toMs - fromMs) * ROOM);
  return fitWindow({ fromMs: fromMs - room, toMs: toMs + room }, whole);
}

/** True where something happened inside the window: an instant at its edge counts. */
export const isInWindow = (
  stretch: { readonly startMs: number | undefined; readonly endMs: number | undefined },
  window: TimeWindow,
): boolean =>
  stretch.startMs !== undefined &&
  stretch.startMs <= window.toMs &&
  (stretch.endMs ?? stretch.startMs) >= window.fromMs;
