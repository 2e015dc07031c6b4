import { useMemo } from 'react';
import { readEvents, readJsonLines } from '#core/content';
import type { Content } from '../content';
import { type ListedRecord, RecordList } from '../RecordList';

/** The events of a stream, or lines of JSON, one by one. */
export function RecordsReading({ content }: { readonly content: Content }) {
  const records = useMemo((): ListedRecord[] => {
    const read = content.shape === 'events' ? readEvents : readJsonLines;
    return read(content.text ?? '').map(({ event, id, data }) => ({
      at: undefined,
      direction: undefined,
      event,
      id,
      data,
    }));
  }, [content]);
  return (
    <>
      <RecordList records={records} noun={content.shape === 'events' ? 'event' : 'line'} found={undefined} />
      {content.isCut ? <p className="text-[13px] text-soft">The stream goes on; "raw" can show all of it.</p> : null}
    </>
  );
}
