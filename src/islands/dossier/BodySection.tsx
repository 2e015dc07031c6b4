import { useMemo } from 'react';
import { MISSING_WORDS } from '#core/content';
import type { StreamMessage } from '#core/model';
import type { BodyView } from '#core/wire';
import { formatBytes, formatExactBytes } from '#core/wording';
import { ContentView } from '../content/ContentView';
import { contentOfBody } from '../content/content-of';
import { bodyAddress } from '../state/api';
import type { HitTarget } from '../state/hit';
import { MessageList } from './MessageList';

interface BodySectionProps {
  readonly captureId: string;
  readonly index: number;
  readonly body: BodyView;
  readonly messages: readonly StreamMessage[];
  readonly startedAt: number | undefined;
  readonly hit: HitTarget | undefined;
}

/** The response's body in the reading that suits it, and the messages of sockets and streams. */
export function BodySection({ captureId, index, body, messages, startedAt, hit }: BodySectionProps) {
  const content = useMemo(() => contentOfBody(captureId, index, body), [captureId, index, body]);
  return (
    <>
      {content === undefined ? (
        messages.length > 0 ? null : (
          <p className="text-soft">{body.missing === undefined ? EMPTY : MISSING_WORDS[body.missing]}</p>
        )
      ) : (
        <>
          <p className="mb-2 flex justify-between gap-3 text-soft">
            <span className="min-w-0">
              {body.mimeType ?? 'of an unknown type'},{' '}
              <span title={formatExactBytes(body.byteLength)}>{formatBytes(body.byteLength)}</span>
              {body.unpackedFrom === undefined ? '' : `, unpacked from ${body.unpackedFrom}`}
            </span>
            <a
              href={bodyAddress(captureId, index)}
              download={body.fileName}
              title={`Save it as ${body.fileName}`}
              className="shrink-0 font-semibold text-ink underline"
            >
              Save the body
            </a>
          </p>
          <ContentView
            key={index}
            content={content}
            hit={hit?.place === 'response body' ? hit : undefined}
            rawAction={{ id: 'raw-body', label: 'Dossier: the raw body and back', keys: ['b'], rank: 'exchange' }}
          />
        </>
      )}
      <MessageList messages={messages} startedAt={startedAt} hit={hit} />
    </>
  );
}

const EMPTY = 'The body is empty: 0 bytes were recorded.';
