import { useVirtualizer } from '@tanstack/react-virtual';
import { useCallback, useRef } from 'react';
import { BYTES_PER_LINE, hexLine } from '#core/content';
import { useFetched } from '../../ui/use-fetched';
import { bytesOf, type Content } from '../content';
import { ReadingNote } from '../ReadingNote';

const ROW_PX = 16;
const MOST_HEIGHT_PX = 420;
/** Browsers do not draw boxes higher than some 16 million pixels. */
const MOST_LINES = 1_000_000;

/** The very bytes: place, hexadecimal, ASCII. */
export function HexReading({ content }: { readonly content: Content }) {
  const scroller = useRef<HTMLElement>(null);
  const fetchIt = useCallback(() => bytesOf(content), [content]);
  const [fetched] = useFetched(fetchIt);
  const bytes = fetched.state === 'there' ? fetched.value : new Uint8Array();
  const lines = Math.min(MOST_LINES, Math.ceil(bytes.length / BYTES_PER_LINE));
  const virtual = useVirtualizer({
    count: lines,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 10,
  });
  if (fetched.state === 'loading') return <ReadingNote>Loading the bytes</ReadingNote>;
  if (fetched.state === 'failed') return <ReadingNote isProblem>{fetched.problem.sentence}</ReadingNote>;
  return (
    <section
      ref={scroller}
      aria-label="Bytes"
      tabIndex={0}
      style={{ height: Math.min(MOST_HEIGHT_PX, lines * ROW_PX + 12) }}
      className="overflow-auto border border-line bg-paper py-1 font-mono text-[12px]"
    >
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((item) => {
          const { offset, hex, ascii } = hexLine(bytes, item.index);
          return (
            <p
              key={item.key}
              style={{ position: 'absolute', top: item.start, height: ROW_PX }}
              className="grid grid-cols-[80px_190px_auto] whitespace-pre px-1"
            >
              <span className="text-soft">{offset}</span>
              <span>{hex}</span>
              <span className="text-soft">{ascii}</span>
            </p>
          );
        })}
      </div>
    </section>
  );
}
