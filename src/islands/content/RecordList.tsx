import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState } from 'react';
import { formatCount, formatMs, formatPlural } from '#core/wording';
import { Choice } from '../ui/Choice';
import { CopyButton } from '../ui/CopyButton';
import { contentOfText } from './content-of';
import { InnerContent } from './InnerContent';

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

/**
 * Records in their order: filtered by text and direction; the one under the cursor is shown in full below.
 * Long because the list, its narrowing and the record below it share one choice.
 */
export function RecordList({ records, noun, found }: RecordListProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const [wanted, setWanted] = useState('');
  const [direction, setDirection] = useState<Direction>('both');
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
  if (records.length === 0) return <p className="text-soft">Not a single {noun} was recorded.</p>;
  return (
    <div data-records>
      <Narrowing
        noun={noun}
        wanted={wanted}
        onWanted={setWanted}
        direction={records.some((one) => one.direction === 'sent') ? direction : undefined}
        onDirection={setDirection}
        counted={
          shown.length === records.length
            ? formatPlural(records.length, noun)
            : `${formatCount(shown.length)} of ${formatPlural(records.length, noun)}`
        }
      />
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
              <RecordRow
                key={at}
                record={one}
                at={at}
                topPx={item.start}
                isChosen={at === chosen}
                isFound={at === found}
                onTurn={() => setChosen(at === chosen ? undefined : at)}
              />
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
          <InnerContent content={content} />
        </div>
      )}
    </div>
  );
}

interface RecordRowProps {
  readonly record: RecordListProps['records'][number];
  readonly at: number;
  readonly topPx: number;
  readonly isChosen: boolean;
  readonly isFound: boolean;
  readonly onTurn: () => void;
}

/** One record on one line; pressed, it is shown in full below the list. */
function RecordRow({ record, at, topPx, isChosen, isFound, onTurn }: RecordRowProps) {
  return (
    <li style={{ position: 'absolute', top: topPx, height: ROW_PX }} className="w-full">
      <button
        type="button"
        aria-expanded={isChosen}
        data-hit-mark={isFound ? '' : undefined}
        onClick={onTurn}
        className={`flex size-full items-center gap-2 border-grid border-b px-1.5 text-left font-mono text-[12px] ${isChosen ? 'current' : 'hover:bg-grid'}`}
      >
        <span className="w-8 shrink-0 text-right text-soft">#{at}</span>
        {record.at === undefined ? null : <span className="w-16 shrink-0 text-right">{formatMs(record.at)}</span>}
        {record.direction === undefined ? null : (
          <span className="w-20 shrink-0 whitespace-nowrap text-soft">
            {record.direction === 'sent' ? '→ sent' : '← received'}
          </span>
        )}
        {record.event === undefined ? null : <b className="shrink-0 font-semibold">{record.event}</b>}
        <span className="min-w-0 truncate">{record.data.slice(0, SHOWN_CHARS)}</span>
      </button>
    </li>
  );
}

type Direction = 'both' | 'sent' | 'received';

interface NarrowingProps {
  readonly noun: string;
  readonly wanted: string;
  readonly onWanted: (text: string) => void;
  /** Absent where all came from one side. */
  readonly direction: Direction | undefined;
  readonly onDirection: (direction: Direction) => void;
  readonly counted: string;
}

/** Which records are shown, by text and direction. */
function Narrowing({ noun, wanted, onWanted, direction, onDirection, counted }: NarrowingProps) {
  return (
    <p className="mb-1 flex items-center gap-2 text-[12px] text-soft">
      <input
        type="search"
        aria-label={`Filter the ${noun}s by text`}
        placeholder="filter by text"
        value={wanted}
        onChange={({ target }) => onWanted(target.value)}
        className="w-40 border border-line bg-paper px-1.5 py-0.5 text-ink"
      />
      {direction === undefined ? null : (
        <Choice
          label="Direction"
          value={direction}
          options={[
            ['both', 'both ways'],
            ['sent', 'sent'],
            ['received', 'received'],
          ]}
          onChoose={onDirection}
        />
      )}
      <span role="status" className="ml-auto">
        {counted}
      </span>
    </p>
  );
}
