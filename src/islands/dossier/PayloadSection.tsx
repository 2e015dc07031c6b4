import { decodeText, readPayloadContent } from '#core/content';
import type { RequestPart } from '#core/model';
import { formatBytes } from '#core/wording';
import type { HitTarget } from '../state/hit';
import { CodeText } from './CodeText';
import { FieldList } from './FieldList';

const SHOWN_CHARS = 200_000;

interface PayloadSectionProps {
  readonly request: RequestPart;
  readonly hit: HitTarget | undefined;
}

/** What the request carried: its parameters where the recorder parsed them, else its text. */
export function PayloadSection({ request, hit }: PayloadSectionProps) {
  const { payload } = request;
  if (payload === undefined) {
    const sent = request.bodyBytes ?? 0;
    return (
      <p className="text-soft">
        {sent > 0
          ? `The request sent ${formatBytes(sent)} that the recorder did not keep.`
          : 'The request carried no payload.'}
      </p>
    );
  }
  const content = readPayloadContent(payload, request.bodyBytes);
  return (
    <>
      <p className="mb-1 text-soft">{payload.mimeType ?? 'of an unknown type'}</p>
      {payload.params === undefined ? null : <FieldList fields={payload.params} />}
      {content.type === 'unrecorded' ? <p className="text-soft">The recorder did not keep its content.</p> : null}
      {content.type === 'bytes' && payload.params === undefined ? (
        <CodeText
          text={decodeText(content.bytes, undefined).slice(0, SHOWN_CHARS)}
          isJson={/json/.test(payload.mimeType ?? '')}
          hit={hit?.place === 'request payload' ? hit : undefined}
        />
      ) : null}
    </>
  );
}
