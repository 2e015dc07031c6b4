import { useEffect, useState } from 'react';
import { laterScript, useScript } from '../ui/later';
import type { Pointer, ReadingOf } from './ReadAt';
import { KEY_PX } from './Strip';

const loadReadAt = laterScript(() => import('./ReadAt'));

interface ReadingProps extends ReadingOf {
  /** The element of the strips, over which the pointer is followed. */
  readonly scroller: React.RefObject<HTMLElement | null>;
}

/** What is read under the pointer, while it is over the stairs. It alone is drawn anew while the pointer moves. */
export function Reading({ scroller, ...given }: ReadingProps) {
  const pointer = usePointer(scroller, given.scale.widthPx);
  const script = useScript(loadReadAt, pointer !== undefined);
  if (pointer === undefined || script === undefined) return null;
  return <script.ReadAt {...given} pointer={pointer} scrollTopPx={scroller.current?.scrollTop ?? 0} />;
}

/** Follows the pointer over the stairs; undefined where it is elsewhere, and once it is pressed or the strips scroll. */
function usePointer(scroller: ReadingProps['scroller'], widthPx: number): Pointer | undefined {
  const [pointer, setPointer] = useState<Pointer | undefined>();
  useEffect(() => {
    const target = scroller.current;
    if (target === null) return undefined;
    let lastAt = '';
    const onMove = (event: PointerEvent): void => {
      // Scrolling moves the strips, not the pointer: browsers tell of it all the same.
      const at = `${event.clientX} ${event.clientY}`;
      if (at === lastAt) return;
      lastAt = at;
      const box = target.getBoundingClientRect();
      const px = event.clientX - box.left - KEY_PX;
      const isInside = event.pointerType !== 'touch' && px >= 0 && px <= widthPx;
      setPointer(isInside ? { px, py: event.clientY - box.top } : undefined);
    };
    const away = (): void => setPointer(undefined);
    const leaving = ['pointerleave', 'pointerdown', 'scroll'] as const;
    target.addEventListener('pointermove', onMove);
    for (const type of leaving) target.addEventListener(type, away);
    return () => {
      target.removeEventListener('pointermove', onMove);
      for (const type of leaving) target.removeEventListener(type, away);
    };
  }, [scroller, widthPx]);
  return pointer;
}
