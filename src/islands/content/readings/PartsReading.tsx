import { useCallback, useMemo, useState } from 'react';
import { type BodyPart, boundaryOf, mergeDeferred, readMultipart } from '#core/content';
import { formatBytes, formatPlural } from '#core/wording';
import { saveFile } from '../../export/save-file';
import { useFetched } from '../../ui/use-fetched';
import { bytesOf, type Content } from '../content';
import { contentOfPart, contentOfText } from '../content-of';
import { InnerContent } from '../InnerContent';
import { ReadingNote } from '../ReadingNote';

/** More parts than anybody reads. */
const SHOWN_PARTS = 200;

/** The parts of a multipart content, each with its headers, files to be saved. */
export function PartsReading({ content }: { readonly content: Content }) {
  const { parts, note } = useParts(content);
  if (parts === undefined) return note;
  return (
    <>
      <ReadingNote>{formatPlural(parts.length, 'part')}</ReadingNote>
      <ol>
        {parts.slice(0, SHOWN_PARTS).map((part, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: parts never change their order.
          <li key={at} className="mb-3 border-line border-l-2 pl-2">
            <Part part={part} at={at} />
          </li>
        ))}
      </ol>
    </>
  );
}

/** A deferred GraphQL answer as it stands once all its parts are there. */
export function MergedReading({ content }: { readonly content: Content }) {
  const { parts, note } = useParts(content);
  const merged = useMemo(
    () => (parts === undefined ? undefined : mergeDeferred(parts.map(({ bytes }) => new TextDecoder().decode(bytes)))),
    [parts],
  );
  const whole = useMemo(
    () => (merged === undefined ? undefined : contentOfText(merged, 'application/json', 'merged.json')),
    [merged],
  );
  if (parts === undefined) return note;
  if (whole === undefined) return <ReadingNote>The parts are not a deferred GraphQL response.</ReadingNote>;
  return (
    <>
      <ReadingNote>{formatPlural(parts.length, 'part')} merged into the whole response</ReadingNote>
      <InnerContent content={whole} />
    </>
  );
}

function useParts(content: Content) {
  const fetchIt = useCallback(() => bytesOf(content), [content]);
  const [fetched] = useFetched(fetchIt);
  const boundary = boundaryOf(content.mimeType);
  const parts = useMemo(
    () => (fetched.state === 'there' && boundary !== undefined ? readMultipart(fetched.value, boundary) : undefined),
    [fetched, boundary],
  );
  const note =
    boundary === undefined ? (
      <ReadingNote isProblem>Content-Type has no boundary, so the parts cannot be separated.</ReadingNote>
    ) : fetched.state === 'failed' ? (
      <ReadingNote isProblem>{fetched.problem.sentence}</ReadingNote>
    ) : (
      <ReadingNote>Reading the parts</ReadingNote>
    );
  return { parts, note };
}

function Part({ part, at }: { readonly part: BodyPart; readonly at: number }) {
  const [isOpen, setOpen] = useState(part.bytes.length < 20_000);
  const content = useMemo(() => contentOfPart(part, at), [part, at]);
  return (
    <div data-part>
      <p className="flex flex-wrap items-baseline gap-x-2 text-[13px]">
        <b className="font-semibold">{part.name ?? `part ${at + 1}`}</b>
        {part.fileName === undefined ? null : <span>file {part.fileName}</span>}
        <span className="text-soft">
          {part.contentType ?? 'text'}, {formatBytes(part.bytes.length)}
        </span>
        <span className="ml-auto flex gap-2 text-[12px] text-soft">
          <button
            type="button"
            className="underline hover:text-ink"
            onClick={() => saveFile(content.fileName, new Blob([new Uint8Array(part.bytes)]))}
          >
            save
          </button>
          <button
            type="button"
            aria-expanded={isOpen}
            className="underline hover:text-ink"
            onClick={() => setOpen(!isOpen)}
          >
            {isOpen ? 'hide' : 'show'}
          </button>
        </span>
      </p>
      {isOpen && part.bytes.length > 0 ? <InnerContent content={content} /> : null}
    </div>
  );
}
