import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState } from 'react';
import { tally } from '#core/analysis';
import type { Arrangement } from './arrange';
import { fitScale, ticksOf } from './geometry';
import { ChartGround, ProfileBand } from './ProfileBand';
import { STRIP_PX, Strip } from './Strip';
import { TallyLine } from './TallyLine';

const KEY_PX = 290;
const MEASURE_PX = 84;
const LEAST_CHART_PX = 200;
const TICK_PX = 96;
/** Strips drawn beyond the edges, so that scrolling never shows a gap. */
const OVERSCAN = 8;

interface WaterfallProps {
  readonly arrangement: Arrangement;
  readonly current: number | undefined;
  readonly onPick: (index: number) => void;
}

/** The chart: tally, profile band, and one strip for each exchange; only the strips on screen are drawn. */
export function Waterfall({ arrangement, current, onPick }: WaterfallProps) {
  const { placed, milestones } = arrangement;
  const scroller = useRef<HTMLDivElement>(null);
  const widthPx = useWidth(scroller);
  const scale = useMemo(() => {
    const ends = placed.flatMap(({ endMs }) => endMs ?? []);
    const starts = placed.flatMap(({ startMs }) => startMs ?? []);
    const chartPx = Math.max(LEAST_CHART_PX, widthPx - KEY_PX - MEASURE_PX);
    return fitScale([...ends, ...milestones.map(({ atMs }) => atMs)], starts, chartPx);
  }, [placed, milestones, widthPx]);
  const ticks = useMemo(() => ticksOf(scale, TICK_PX), [scale]);
  const sums = useMemo(() => tally(placed.map(({ row }) => row)), [placed]);
  const virtual = useVirtualizer({
    count: placed.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => STRIP_PX,
    overscan: OVERSCAN,
  });
  const currentPlace = placed.findIndex(({ row }) => row.index === current);
  useEffect(() => {
    if (currentPlace === -1) return;
    const range = virtual.range;
    // A neighbour just beyond the edge comes in by a line; anything farther away comes to the middle.
    const isNear = range !== null && currentPlace >= range.startIndex - 2 && currentPlace <= range.endIndex + 2;
    virtual.scrollToIndex(currentPlace, { align: isNear ? 'auto' : 'center' });
  }, [currentPlace, virtual]);
  const heightPx = Math.max(virtual.getTotalSize(), scroller.current?.clientHeight ?? 0);
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <TallyLine sums={sums} milestones={milestones} />
      <ProfileBand
        placed={placed}
        milestones={milestones}
        scale={scale}
        ticks={ticks}
        keyPx={KEY_PX}
        measurePx={MEASURE_PX}
      />
      <div
        ref={scroller}
        role="listbox"
        aria-label="Exchanges in the order of their starts"
        aria-activedescendant={currentPlace === -1 ? undefined : `strip-${current}`}
        tabIndex={0}
        className="relative min-h-0 flex-1 overflow-y-auto overflow-x-hidden focus-visible:outline-offset-[-2px]"
      >
        <div className="relative" style={{ height: heightPx }}>
          <div className="absolute top-0" style={{ left: KEY_PX }}>
            <ChartGround milestones={milestones} scale={scale} ticks={ticks} heightPx={heightPx} />
          </div>
          {virtual.getVirtualItems().map((item) => {
            const one = placed[item.index];
            return one === undefined ? null : (
              <Strip
                key={one.row.index}
                placed={one}
                scale={scale}
                topPx={item.start}
                keyPx={KEY_PX}
                measurePx={MEASURE_PX}
                isCurrent={item.index === currentPlace}
                place={item.index}
                count={placed.length}
                onPick={onPick}
              />
            );
          })}
        </div>
      </div>
    </div>
  );
}

/** The inner width of an element, without its scroll bar, kept up to date. */
function useWidth(element: React.RefObject<HTMLElement | null>): number {
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const target = element.current;
    if (target === null) return;
    const observer = new ResizeObserver(() => setWidth(target.clientWidth));
    observer.observe(target);
    return () => observer.disconnect();
  }, [element]);
  return width;
}
