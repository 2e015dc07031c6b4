import { useState } from 'react';
import type { BodyView } from '#core/wire';
import { formatBytes, formatExactBytes } from '#core/wording';
import { bodyAddress } from '../state/api';
import { CodeText } from './CodeText';

interface BodySectionProps {
  readonly captureId: string;
  readonly index: number;
  readonly body: BodyView;
  readonly hasResponse: boolean;
}

/** The response's body: text decoded, images drawn, the rest to be saved; what was not recorded says so. */
export function BodySection({ captureId, index, body, hasResponse }: BodySectionProps) {
  if (body.kind === 'absent') {
    return (
      <p className="text-soft">
        {hasResponse
          ? 'No body was recorded: there was none, it came from a kept copy, or the recorder saved without content.'
          : 'Without a response there is no body.'}
      </p>
    );
  }
  if (body.kind === 'empty') return <p className="text-soft">The body is empty: 0 bytes were recorded.</p>;
  const address = bodyAddress(captureId, index);
  return (
    <>
      <p className="mb-2 flex justify-between text-soft">
        <span>
          {body.mimeType ?? 'of an unknown type'},{' '}
          <span title={formatExactBytes(body.byteLength)}>{formatBytes(body.byteLength)}</span>
          {body.unpackedFrom === undefined ? '' : `, unpacked from ${body.unpackedFrom}`}
        </span>
        <a href={address} download={`exchange-${index}`} className="font-semibold text-ink underline">
          Save the body
        </a>
      </p>
      <BodyContent body={body} address={address} />
    </>
  );
}

function BodyContent({ body, address }: { readonly body: BodyView; readonly address: string }) {
  switch (body.kind) {
    case 'image':
      return <ImageBody address={address} />;
    case 'json':
    case 'text':
      return (
        <>
          <CodeText text={body.text ?? ''} isJson={body.kind === 'json' && !body.isCut} />
          {body.isCut ? <p className="mt-1 text-soft">It goes on; save the body to have all of it.</p> : null}
        </>
      );
    case 'binary':
      return <p>The body is binary; save it to look at it in a program for its type.</p>;
    case 'absent':
    case 'empty':
      return null;
    default:
      return body.kind satisfies never;
  }
}

type Dimensions = { readonly width: number; readonly height: number };

function ImageBody({ address }: { readonly address: string }) {
  const [seen, setSeen] = useState<Dimensions | 'broken' | undefined>(undefined);
  if (seen === 'broken') return <p>The browser cannot draw this image; save it to look at it elsewhere.</p>;
  return (
    <>
      <img
        src={address}
        alt="The body as it was received"
        className="max-h-96 max-w-full border border-line bg-paper"
        onLoad={({ currentTarget }) =>
          setSeen({ width: currentTarget.naturalWidth, height: currentTarget.naturalHeight })
        }
        onError={() => setSeen('broken')}
      />
      {seen === undefined ? null : (
        <p className="mt-1 text-soft">
          {seen.width} by {seen.height} pixels
        </p>
      )}
    </>
  );
}
