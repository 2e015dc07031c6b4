import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef } from 'react';
import { type ExchangeRow, nameExchange, nameHost } from '#core/analysis';
import { MarkSign } from '../marks/MarkSign';
import { KIND_LETTER } from '../ui/kind';

interface LeavingListProps {
  readonly rows: readonly ExchangeRow[];
  /** How many secrets were inked out in each exchange. */
  readonly inked: ReadonlyMap<number, number>;
  readonly current: number | undefined;
  readonly onChoose: (place: number) => void;
}

const ROW_PX = 24;

/** The exchanges that leave, each with how much was inked out in it. Drawn are those on screen alone. */
export function LeavingList({ rows, inked, current, onChoose }: LeavingListProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 10,
  });
  return (
    <div ref={scroller} className="min-h-0 flex-1 overflow-y-auto">
      <ul aria-label="Exchanges that leave" className="relative" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map(({ index: at, start }) => {
          const row = rows[at];
          if (row === undefined) return null;
          const count = inked.get(row.index) ?? 0;
          const isCurrent = row.index === current;
          return (
            <li key={row.index} className="absolute inset-x-0" style={{ top: start, height: ROW_PX }}>
              <button
                type="button"
                aria-current={isCurrent}
                onClick={() => onChoose(row.index)}
                title={row.url}
                className={`flex h-full w-full items-center gap-2 border-l-4 px-2 text-left ${isCurrent ? 'border-route bg-route-wash' : 'border-transparent hover:bg-sheet'}`}
              >
                <span className="w-8 shrink-0 text-right font-mono text-[11px] text-soft">{row.index}</span>
                <span className="w-4 shrink-0 text-center font-mono text-[11px] text-soft">
                  {KIND_LETTER[row.kind]}
                </span>
                <span className="min-w-0 flex-1 truncate text-[13px]">
                  {nameExchange(row)} <span className="text-soft">{nameHost(row.host)}</span>
                </span>
                <MarkSign index={row.index} />
                {count === 0 ? null : (
                  <span
                    className="shrink-0 bg-ink px-1 font-mono text-[11px] text-paper"
                    title={`${count} inked out here`}
                  >
                    {count}
                  </span>
                )}
              </button>
            </li>
          );
        })}
      </ul>
    </div>
  );
}
