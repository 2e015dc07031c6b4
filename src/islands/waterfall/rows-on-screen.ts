import { type RefObject, useEffect, useLayoutEffect, useState } from 'react';
import { flushSync } from 'react-dom';
import { STRIP_PX } from './strip-marks';

/** Rows drawn beyond the edges, so that scrolling never shows a gap. */
const OVERSCAN = 4;

/** A stretch of the chart's rows, by their places; `to` is the first that is no longer in it. */
export interface RowRange {
  readonly from: number;
  readonly to: number;
}

/** The rows to draw where a chart of so many is scrolled to: those on screen, and a few beyond. Every row is STRIP_PX high. */
export function rowsOnScreen(scrollPx: number, heightPx: number, count: number): RowRange {
  const first = Math.min(Math.floor(Math.max(0, scrollPx) / STRIP_PX), Math.max(0, count - 1));
  const end = Math.ceil((Math.max(0, scrollPx) + heightPx) / STRIP_PX);
  return { from: Math.max(0, first - OVERSCAN), to: Math.min(count, Math.max(first, end) + OVERSCAN) };
}

/**
 * Where a chart has to be scrolled to so that a row is seen: not at all where it is. A neighbour just beyond the edge comes
 * in by a line; anything farther away comes to the middle.
 */
export function scrollToShow(place: number, scrollPx: number, heightPx: number): number {
  const topPx = place * STRIP_PX;
  const endPx = topPx + STRIP_PX;
  if (topPx >= scrollPx && endPx <= scrollPx + heightPx) return scrollPx;
  const aboveRows = (scrollPx - topPx) / STRIP_PX;
  const belowRows = (endPx - scrollPx - heightPx) / STRIP_PX;
  if (aboveRows > NEAR_ROWS || belowRows > NEAR_ROWS) return Math.max(0, topPx - (heightPx - STRIP_PX) / 2);
  return aboveRows > 0 ? topPx : endPx - heightPx;
}

const NEAR_ROWS = 3;

/**
 * The rows with the elements that they are drawn in: those that leave the screen lend theirs to those that come, as many
 * as are ever drawn at once. In the order of the elements, not of the places: an element that is moved while it is pressed
 * is never clicked, and moving them costs more than filling them. `aria-posinset` tells the order.
 */
export function inSlots({ from, to }: RowRange, heightPx: number): { readonly place: number; readonly slot: number }[] {
  const count = to - from;
  const slots = Math.max(count, Math.ceil(heightPx / STRIP_PX) + 1 + 2 * OVERSCAN);
  return Array.from({ length: count }, (_, at) => ({ place: from + at, slot: (from + at) % slots })).sort(
    (one, other) => one.slot - other.slot,
  );
}

/** The rows to draw of an element that scrolls, kept up to date. */
export function useDrawnPart(scroller: RefObject<HTMLElement | null>, count: number, heightPx: number): RowRange {
  const [drawn, setDrawn] = useState<RowRange>({ from: 0, to: 0 });
  useLayoutEffect(() => {
    const target = scroller.current;
    if (target === null) return;
    const draw = (): void =>
      setDrawn((last) => {
        const next = rowsOnScreen(target.scrollTop, heightPx, count);
        return next.from === last.from && next.to === last.to ? last : next;
      });
    draw();
    // In the frame that scrolls, not in the one behind it: a fast wheel would be ahead of the rows.
    const onScroll = (): void => flushSync(draw);
    target.addEventListener('scroll', onScroll, { passive: true });
    return () => target.removeEventListener('scroll', onScroll);
  }, [scroller, count, heightPx]);
  // Of fewer rows than a moment ago there are none beyond the last.
  return { from: Math.min(drawn.from, count), to: Math.min(drawn.to, count) };
}

/** Keeps the row under the cursor on screen. */
export function useFollowing(scroller: RefObject<HTMLElement | null>, currentPlace: number): void {
  useEffect(() => {
    const target = scroller.current;
    if (target === null || currentPlace === -1) return;
    target.scrollTop = scrollToShow(currentPlace, target.scrollTop, target.clientHeight);
  }, [scroller, currentPlace]);
}
