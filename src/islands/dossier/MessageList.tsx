import { useMemo } from 'react';
import type { StreamMessage } from '#core/model';
import { ContentView } from '../content/ContentView';
import { ShowsContent } from '../content/InnerContent';
import { RecordList } from '../content/RecordList';
import type { HitTarget } from '../state/hit';

interface MessageListProps {
  readonly messages: readonly StreamMessage[];
  /** In ms since 1970: messages tell their time from it. */
  readonly startedAt: number | undefined;
  readonly hit: HitTarget | undefined;
}

/** Socket messages or server-sent events in the order in which they came. */
export function MessageList({ messages, startedAt, hit }: MessageListProps) {
  const records = useMemo(
    () =>
      messages.map(({ direction, at, data }) => ({
        at: at === undefined || startedAt === undefined ? undefined : at - startedAt,
        direction,
        event: undefined,
        id: undefined,
        data,
      })),
    [messages, startedAt],
  );
  if (messages.length === 0) return null;
  return (
    <>
      <h4 className="mt-3 mb-1 font-semibold text-soft">Messages</h4>
      <ShowsContent value={ContentView}>
        <RecordList records={records} noun="message" found={hit?.place === 'message' ? Number(hit.path) : undefined} />
      </ShowsContent>
    </>
  );
}
