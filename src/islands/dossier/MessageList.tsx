import type { StreamMessage } from '#core/model';
import { formatCount } from '#core/wording';
import type { HitTarget } from '../state/hit';
import { CodeText } from './CodeText';

interface MessageListProps {
  readonly messages: readonly StreamMessage[];
  readonly hit: HitTarget | undefined;
}

/** Messages shown at most; of longer streams those around what was found, else the first. */
const SHOWN = 200;

/** Socket messages or server-sent events in the order in which they came. */
export function MessageList({ messages, hit }: MessageListProps) {
  if (messages.length === 0) return null;
  const found = hit?.place === 'message' ? Number(hit.path) : undefined;
  const from = Math.max(0, (found ?? 0) - SHOWN / 2);
  const shown = messages.slice(from, from + SHOWN);
  return (
    <>
      <h4 className="mt-3 mb-1 font-semibold text-soft">
        {formatCount(messages.length)} messages
        {shown.length < messages.length ? `, from #${from} to #${from + shown.length - 1}` : ''}
      </h4>
      <ol>
        {shown.map((message, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: messages never change their order.
          <li key={from + at} className="mt-1 grid grid-cols-[80px_1fr] gap-2">
            <span className="text-[12px] text-soft">
              #{from + at} {message.direction}
            </span>
            <CodeText
              text={message.data.slice(0, 20_000)}
              isJson={/^\s*[[{]/.test(message.data)}
              hit={from + at === found ? hit : undefined}
            />
          </li>
        ))}
      </ol>
    </>
  );
}
