import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState } from 'react';
import { formatCount, formatMs, formatPlural } from '#core/wording';
import { Choice } from '../ui/Choice';
import { CopyButton } from '../ui/CopyButton';
import { ContentView } from './ContentView';
import { contentOfText } from './content-of';

/** A message, event or line in a list. */
export interface ListedRecord {
  /** In ms since the exchange's start. */
  readonly at: number | undefined;
  readonly direction: 'sent' | 'received' | undefined;
  readonly event: string | undefined;
  readonly id: string | undefined;
  readonly data: string;
}

interface RecordListProps {
  readonly records: readonly ListedRecord[];
  readonly noun: string;
  /** Number of the record in which something was found. */
  readonly found: number | undefined;
}

const ROW_PX = 22;
const MOST_HEIGHT_PX = 330;
const SHOWN_CHARS = 300;

/** Records in their order: filtered by text and direction; the one under the cursor is shown in full below. */
export function RecordList({ records, noun, found }: RecordListProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const [wanted, setWanted] = useState('');
  const [direction, setDirection] = useState<'both' | 'sent' | 'received'>('both');
  const [chosen, setChosen] = useState<number | undefined>(found);
  useEffect(() => setChosen(found), [found]);
  const shown = useMemo(() => {
    const lower = wanted.toLowerCase();
    return [...records.keys()].filter((at) => {
      const record = records[at];
      if (record === undefined || (direction !== 'both' && record.direction !== direction)) return false;
      return lower === '' || `${record.event ?? ''} ${record.data}`.toLowerCase().includes(lower);
    });
  }, [records, wanted, direction]);
  const virtual = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 8,
  });
  useEffect(() => {
    if (found !== undefined) virtual.scrollToIndex(found, { align: 'center' });
  }, [found, virtual]);
  const record = chosen === undefined ? undefined : records[chosen];
  const content = useMemo(
    () => (record === undefined ? undefined : contentOfText(record.data, undefined, 'message')),
    [record],
  );
  const hasDirections = records.some((one) => one.direction === 'sent');
  if (records.length === 0) return <p className="text-soft">Not a single {noun} was recorded.</p>;
  return (
    <div data-records>
      <p className="mb-1 flex items-center gap-2 text-[12px] text-soft">
        <input
          type="search"
          aria-label={`Narrow the ${noun}s by text`}
          placeholder="narrow by text"
          value={wanted}
          onChange={({ target }) => setWanted(target.value)}
          className="w-40 border border-line bg-paper px-1.5 py-0.5 text-ink"
        />
        {hasDirections ? (
          <Choice
            label="Direction"
            value={direction}
            options={[
              ['both', 'both ways'],
              ['sent', 'sent'],
              ['received', 'received'],
            ]}
            onChoose={setDirection}
          />
        ) : null}
        <span role="status" className="ml-auto">
          {shown.length === records.length
            ? formatPlural(records.length, noun)
            : `${formatCount(shown.length)} of ${formatPlural(records.length, noun)}`}
        </span>
      </p>
      <div
        ref={scroller}
        style={{ height: Math.min(MOST_HEIGHT_PX, shown.length * ROW_PX + 2) }}
        className="overflow-y-auto border border-line bg-paper"
      >
        <ol style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => {
            const at = shown[item.index] ?? 0;
            const one = records[at];
            if (one === undefined) return null;
            return (
              <li key={at} style={{ position: 'absolute', top: item.start, height: ROW_PX }} className="w-full">
                <button
                  type="button"
                  aria-expanded={at === chosen}
                  data-hit-mark={at === found ? '' : undefined}
                  onClick={() => setChosen(at === chosen ? undefined : at)}
                  className={`flex size-full items-center gap-2 border-grid border-b px-1.5 text-left font-mono text-[12px] ${at === chosen ? 'current' : 'hover:bg-grid'}`}
                >
                  <span className="w-8 shrink-0 text-right text-soft">#{at}</span>
                  {one.at === undefined ? null : <span className="w-16 shrink-0 text-right">{formatMs(one.at)}</span>}
                  {one.direction === undefined ? null : (
                    <span className="w-20 shrink-0 whitespace-nowrap text-soft">
                      {one.direction === 'sent' ? '→ sent' : '← received'}
                    </span>
                  )}
                  {one.event === undefined ? null : <b className="shrink-0 font-semibold">{one.event}</b>}
                  <span className="min-w-0 truncate">{one.data.slice(0, SHOWN_CHARS)}</span>
                </button>
              </li>
            );
          })}
        </ol>
      </div>
      {content === undefined || record === undefined ? null : (
        <div className="mt-2 border-line border-l-2 pl-2">
          <p className="flex gap-3 text-[12px] text-soft">
            {noun} #{chosen}
            {record.id === undefined ? '' : `, id ${record.id}`}
            <CopyButton label={`Copy the ${noun}`} text={() => record.data} />
          </p>
          <ContentView content={content} hit={undefined} />
        </div>
      )}
    </div>
  );
}
