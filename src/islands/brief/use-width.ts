import { type RefObject, useEffect, useState } from 'react';

const FIRST_PX = 740;
const LEAST_PX = 200;

/** The width of an element in px, as it changes; never less than there is something to see. */
export function useWidth(frame: RefObject<HTMLElement | null>, leastPx = LEAST_PX): number {
  const [widthPx, setWidthPx] = useState(FIRST_PX);
  useEffect(() => {
    const element = frame.current;
    if (element === null) return;
    const observer = new ResizeObserver(([entry]) => {
      // While its view is not shown an element has no width: what it had is what it will have again.
      if (entry !== undefined && entry.contentRect.width > 0) setWidthPx(Math.max(leastPx, entry.contentRect.width));
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, [frame, leastPx]);
  return widthPx;
}
