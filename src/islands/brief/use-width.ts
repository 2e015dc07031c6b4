import { type RefObject, useEffect, useState } from 'react';

const FIRST_PX = 740;

/** The width of an element in px, as it changes. */
export function useWidth(frame: RefObject<HTMLElement | null>): number {
  const [widthPx, setWidthPx] = useState(FIRST_PX);
  useEffect(() => {
    const element = frame.current;
    if (element === null) return;
    const observer = new ResizeObserver(([entry]) => setWidthPx(Math.max(200, entry?.contentRect.width ?? FIRST_PX)));
    observer.observe(element);
    return () => observer.disconnect();
  }, [frame]);
  return widthPx;
}
