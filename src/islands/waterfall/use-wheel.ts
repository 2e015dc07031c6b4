import { useEffect, useRef } from 'react';
import { type Scale, toMs } from '#core/chart';
import { goTo, type TimeWindow } from '../state/address';
import { pan, zoomAbout } from './window';

const WHEEL_STEP = 0.0016;

/**
 * Zooms with Ctrl and moves with Shift, by the wheel, over a list of strips. Plain wheeling scrolls it.
 * @param keyPx how far right the chart begins
 */
export function useWheel(
  scroller: React.RefObject<HTMLDivElement | null>,
  scale: Scale,
  whole: TimeWindow,
  keyPx: number,
): void {
  const latest = useRef({ scale, whole });
  latest.current = { scale, whole };
  useEffect(() => {
    const target = scroller.current;
    if (target === null) return;
    // A listener of our own: React's are passive, and the browser would zoom the whole page.
    const onWheel = (event: WheelEvent): void => {
      const isZoom = event.ctrlKey || event.metaKey || event.altKey;
      const isMove = event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY);
      if (!isZoom && !isMove) return;
      event.preventDefault();
      const { scale: shown, whole: all } = latest.current;
      const px = event.clientX - target.getBoundingClientRect().left - keyPx;
      const by = event.deltaX === 0 ? event.deltaY : event.deltaX;
      goTo({
        window: isZoom
          ? zoomAbout(shown, toMs(shown, px), Math.exp(-event.deltaY * WHEEL_STEP), all)
          : pan(shown, by / 1000, all),
      });
    };
    target.addEventListener('wheel', onWheel, { passive: false });
    return () => target.removeEventListener('wheel', onWheel);
  }, [scroller, keyPx]);
}
