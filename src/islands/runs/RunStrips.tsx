import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef } from 'react';
import type { RunStep } from '#core/wire';
import { formatMs } from '#core/wording';
import { StatusCell } from '../drafts/TrialStrips';
import { useOneTabStop } from '../state/focus';
import { Stairs } from '../waterfall/Strip';

interface RunStripsProps {
  readonly steps: readonly RunStep[];
  readonly isGoingOn: boolean;
  /** Opens the exchange of a step. */
  readonly onOpen: (number: number) => void;
}

const STAIRS_PX = 120;
const ROW_PX = 22;
const MOST_PX = 220;

/** What a run sent as strips, each from the moment that it began, in their order; only those on screen are drawn. */
export function RunStrips({ steps, isGoingOn, onOpen }: RunStripsProps) {
  const box = useRef<HTMLDivElement>(null);
  const list = useOneTabStop<HTMLUListElement>('button[data-step]');
  const rows = useVirtualizer({
    count: steps.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 10,
  });
  const { length } = steps;
  // What comes is looked at, as long as more comes.
  useEffect(() => {
    if (isGoingOn && length > 0) rows.scrollToIndex(length - 1);
  }, [isGoingOn, length, rows]);
  const longest = steps.reduce((most, { row }) => Math.max(most, row.timeMs ?? 0), 1);
  const scale = { fromMs: 0, toMs: longest * 1.1, widthPx: STAIRS_PX };
  return (
    <div ref={box} className="overflow-y-auto border-line border-y" style={{ maxHeight: MOST_PX }}>
      <ul ref={list} aria-label="What was sent" className="relative" style={{ height: rows.getTotalSize() }}>
        {rows.getVirtualItems().map(({ index, start }) => {
          const step = steps[index];
          if (step === undefined) return null;
          const { number, row, label, sentence, verdict } = step;
          return (
            <li key={number} className="absolute inset-x-0 border-grid border-b" style={{ top: start, height: ROW_PX }}>
              <button
                type="button"
                data-step={number}
                aria-label={`${number}: ${label}. ${sentence}`}
                title={`${label}: ${sentence}${row.timeMs === undefined ? '' : `; ${formatMs(row.timeMs)}`}`}
                onClick={() => onOpen(number)}
                className="flex h-full w-full min-w-0 items-center gap-2 text-left text-[12px] hover:bg-paper"
              >
                <span className="w-8 shrink-0 text-right text-[11px] text-soft">{number}</span>
                <StatusCell row={row} />
                <Stairs placed={{ row, startMs: 0, endMs: row.timeMs }} scale={scale} lastMs={longest + 1} />
                <span className="min-w-0 flex-1 truncate">{label}</span>
                <span className={`max-w-[45%] shrink-0 truncate pr-2 ${verdict === 'good' ? '' : 'text-soft'}`}>
                  {sentence}
                </span>
              </button>
            </li>
          );
        })}
      </ul>
    </div>
  );
}
