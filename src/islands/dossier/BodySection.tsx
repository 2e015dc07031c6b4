import { useEffect, useState } from 'react';
import { decodeText } from '#core/content';
import type { BodyView } from '#core/wire';
import { formatBytes, formatExactBytes } from '#core/wording';
import { bodyAddress, fetchBytes } from '../state/api';
import type { HitTarget } from '../state/hit';
import { CodeText } from './CodeText';

interface BodySectionProps {
  readonly captureId: string;
  readonly index: number;
  readonly body: BodyView;
  readonly hasResponse: boolean;
  readonly hit: HitTarget | undefined;
}

/** The response's body: text decoded, images drawn, the rest to be saved; what was not recorded says so. */
export function BodySection({ captureId, index, body, hasResponse, hit }: BodySectionProps) {
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
      <BodyContent body={body} address={address} hit={hit?.place === 'response body' ? hit : undefined} />
    </>
  );
}

interface BodyContentProps {
  readonly body: BodyView;
  readonly address: string;
  readonly hit: HitTarget | undefined;
}

function BodyContent({ body, address, hit }: BodyContentProps) {
  const text = useWholeText(body, address, hit);
  switch (body.kind) {
    case 'image':
      return <ImageBody address={address} />;
    case 'json':
    case 'text':
      return (
        <>
          <CodeText text={text} isJson={body.kind === 'json'} hit={hit} />
          {body.isCut && text === body.text ? (
            <p className="mt-1 text-soft">It goes on; save the body to have all of it.</p>
          ) : null}
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

/** The text that came with the dossier; all of it once something was found behind its end. */
function useWholeText(body: BodyView, address: string, hit: HitTarget | undefined): string {
  const sent = body.text ?? '';
  const isBehind = body.isCut && hit !== undefined && hit.offset + hit.length > sent.length;
  const [whole, setWhole] = useState<string | undefined>();
  useEffect(() => {
    if (!isBehind) return;
    let isCurrent = true;
    fetchBytes(address).then((answer) => {
      if (isCurrent && answer.ok) setWhole(decodeText(answer.value, body.charsetType));
    });
    return () => {
      isCurrent = false;
    };
  }, [isBehind, address, body.charsetType]);
  return isBehind ? (whole ?? sent) : sent;
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
