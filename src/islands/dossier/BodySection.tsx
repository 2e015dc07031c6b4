import { useMemo } from 'react';
import type { MissingBody } from '#core/content';
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

/** Why there is none, and how to record it where it could have been. */
const MISSING_WORDS: Record<MissingBody, string> = {
  'no-response': 'No response was recorded, and so no body.',
  'never-has-one': 'No body: responses to HEAD and those with status 1xx, 204 and 304 never have one.',
  redirect: 'The body of this redirect was not recorded, as is usual; see the redirect’s target.',
  stream: 'Nothing of the stream was recorded. Record again with the recorder running before the page opens it.',
  'not-saved':
    'The body was received but not saved: the recorder left bodies out, or had discarded this one. Record again, save with content, and save before leaving the page.',
  'kept-copy': 'From cache, and its body was not saved, as recorders often do. Record again with the cache disabled.',
  'empty-or-not-saved':
    'No body was recorded: there was none, or it was not saved. Record again and save with content to be sure.',
};
