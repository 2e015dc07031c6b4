import { type RefObject, useLayoutEffect, useState } from 'react';

/** The inner size of an element, without its scroll bar, kept up to date; known before the first frame is drawn. */
export function useSize(element: RefObject<HTMLElement | null>): {
  readonly widthPx: number;
  readonly heightPx: number;
} {
  const [size, setSize] = useState({ widthPx: 0, heightPx: 0 });
  useLayoutEffect(() => {
    const target = element.current;
    if (target === null) return;
    const measure = (): void => {
      const { clientWidth: widthPx, clientHeight: heightPx } = target;
      setSize((last) => (last.widthPx === widthPx && last.heightPx === heightPx ? last : { widthPx, heightPx }));
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(target);
    return () => observer.disconnect();
  }, [element]);
  return size;
}
