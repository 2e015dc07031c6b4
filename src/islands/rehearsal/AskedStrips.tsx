import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef } from 'react';
import type { AskedExchange } from '#core/wire';
import { formatMs } from '#core/wording';
import { StatusCell } from '../drafts/TrialStrips';
import { useOneTabStop } from '../state/focus';
import { Stairs } from '../waterfall/Strip';

interface AskedStripsProps {
  readonly asked: readonly AskedExchange[];
  readonly current: number | undefined;
  readonly isRunning: boolean;
  readonly onChoose: (number: number) => void;
}

const STAIRS_PX = 90;
const ROW_PX = 22;

/** What a rehearsal was asked, in its order, each with the captured exchange that it was taken for; only those on screen are drawn. */
export function AskedStrips({ asked, current, isRunning, onChoose }: AskedStripsProps) {
  const box = useRef<HTMLDivElement>(null);
  const list = useOneTabStop<HTMLUListElement>('button[data-asked]');
  const rows = useVirtualizer({
    count: asked.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 10,
  });
  const { length } = asked;
  // What comes is looked at, until one is chosen.
  useEffect(() => {
    if (isRunning && current === undefined && length > 0) rows.scrollToIndex(length - 1);
  }, [isRunning, current, length, rows]);
  const longest = asked.reduce((most, { row }) => Math.max(most, row.timeMs ?? 0), 1);
  const scale = { fromMs: 0, toMs: longest * 1.1, widthPx: STAIRS_PX };
  return (
    <div ref={box} className="min-h-0 flex-1 overflow-y-auto border-line border-t">
      <ul ref={list} aria-label="What was asked" className="relative" style={{ height: rows.getTotalSize() }}>
        {rows.getVirtualItems().map(({ index, start }) => {
          const one = asked[index];
          if (one === undefined) return null;
          const { number, row, sentence } = one;
          const isCurrent = number === current;
          return (
            <li
              key={number}
              className={`absolute inset-x-0 border-grid border-b ${isCurrent ? 'current' : ''}`}
              style={{ top: start, height: ROW_PX }}
            >
              <button
                type="button"
                data-asked={number}
                aria-current={isCurrent}
                aria-label={`${number}: ${row.method} ${row.url}, ${takenAs(one)}. ${sentence}`}
                title={`${row.method} ${row.url}\n${sentence}${row.timeMs === undefined ? '' : `\n${formatMs(row.timeMs)}`}`}
                onClick={() => onChoose(number)}
                className="flex h-full w-full min-w-0 items-center gap-2 text-left text-[12px] hover:bg-paper"
              >
                <span className="w-9 shrink-0 text-right text-[11px] text-soft">{number}</span>
                <StatusCell row={row} />
                <Stairs placed={{ row, startMs: 0, endMs: row.timeMs }} scale={scale} lastMs={longest + 1} />
                <span className="w-12 shrink-0 text-[11px] text-soft">
                  {one.fits === 'fits' ? `#${one.taken}` : ''}
                </span>
                <span className="min-w-0 flex-1 truncate">
                  {row.method === 'GET' ? '' : `${row.method} `}
                  {pathOf(row.url)}
                </span>
                <Verdict of={one} />
              </button>
            </li>
          );
        })}
      </ul>
    </div>
  );
}

/** How a request compares, in a word; told by its weight and tone as well. */
function Verdict({ of }: { readonly of: AskedExchange }) {
  const word = wordOf(of);
  const look =
    of.fits === 'none' || of.fits === 'refused' ? 'font-bold text-failed' : of.verdict === 'differs' ? '' : 'text-soft';
  return <span className={`w-28 shrink-0 truncate pr-2 ${look}`}>{word}</span>;
}

/** How a request compares with the captured one, in a word or two. */
export function wordOf({ fits, verdict, differences }: AskedExchange): string {
  switch (fits) {
    case 'none':
      return 'not captured';
    case 'refused':
      return 'refused';
    case 'forwarded':
      return 'forwarded';
    case 'allowed':
      return 'allowed';
    case 'fits': {
      if (verdict !== 'differs') return 'as captured';
      const parts = new Set(differences.flatMap(({ excuse, part }) => (excuse === undefined ? [part] : [])));
      return parts.size === 1 && parts.has('header') ? 'other headers' : `other ${[...parts].join(', ')}`;
    }
    default:
      return fits satisfies never;
  }
}

const takenAs = ({ fits, taken, ...one }: AskedExchange): string =>
  fits === 'fits' ? `taken for #${taken}, ${wordOf({ fits, taken, ...one })}` : wordOf({ fits, taken, ...one });

/** Host and path are what tells requests apart; the scheme is the same for nearly all. */
const pathOf = (url: string): string => url.replace(/^[a-z]+:\/\//i, '');
