import { type ReactNode, useMemo, useState } from 'react';
import { findTables } from '#core/json';
import { CodeText } from '../dossier/CodeText';
import type { HitTarget } from '../state/hit';
import { type ControlAction, useControl } from '../ui/use-actions';
import type { Content } from './content';
import { ShowsContent } from './InnerContent';
import { ReadingNote } from './ReadingNote';
import { READINGS_OF, type ReadingId, readingsFor } from './reading';
import { CodeReading, FormattedReading } from './readings/CodeReading';
import { FontReading } from './readings/FontReading';
import { FormReading } from './readings/FormReading';
import { HexReading } from './readings/HexReading';
import { ImageReading } from './readings/ImageReading';
import { MediaReading } from './readings/MediaReading';
import { MergedReading, PartsReading } from './readings/PartsReading';
import { PdfReading } from './readings/PdfReading';
import { PictureReading } from './readings/PictureReading';
import { RecordsReading } from './readings/RecordsReading';
import { TableReading } from './readings/TableReading';
import { TreeReading } from './readings/TreeReading';
import { useJson } from './use-json';

interface ContentViewProps {
  readonly content: Content;
  readonly hit: HitTarget | undefined;
  /** The action that turns to the raw reading and back. */
  readonly rawAction?: ControlAction;
}

/** What an exchange carried, in the reading that suits it; the other readings are a press away. */
export function ContentView({ content, hit, rawAction }: ContentViewProps) {
  const readings = readingsFor(content);
  // Something that was found is shown where it stands, which only trees and plain text can.
  const first = hit !== undefined && readings[0] !== 'tree' ? 'found' : (readings[0] ?? 'raw');
  const [chosen, setChosen] = useState<ReadingId | undefined>(undefined);
  const shown = chosen ?? first;
  const turnRaw = (): void => setChosen(shown === 'raw' ? readings[0] : 'raw');
  return (
    <div data-content={content.shape}>
      {readings.length < 2 ? null : (
        <fieldset aria-label="Reading" className="mb-1 flex flex-wrap gap-x-2 text-[13px] text-soft">
          <span>read as</span>
          {readings.map((id) => (
            <button
              key={id}
              type="button"
              aria-pressed={shown === id}
              onClick={() => setChosen(id)}
              className={shown === id ? 'font-semibold text-ink' : 'underline decoration-dotted hover:text-ink'}
            >
              {READINGS_OF[id]}
            </button>
          ))}
          {rawAction === undefined || !readings.includes('raw') ? null : (
            <RawButton action={rawAction} onTurn={turnRaw} />
          )}
        </fieldset>
      )}
      <ShowsContent value={ContentView}>
        <Reading id={shown} content={content} hit={hit} />
      </ShowsContent>
    </div>
  );
}

function RawButton({ action, onTurn }: { readonly action: ControlAction; readonly onTurn: () => void }) {
  const button = useControl<HTMLButtonElement>(action, 'click');
  return (
    <button
      ref={button}
      type="button"
      onClick={onTurn}
      aria-keyshortcuts={action.keys[0]}
      aria-label="Turn to the raw text and back"
      className="ml-auto text-soft"
    >
      <kbd className="font-mono text-[11px]">{action.keys[0]}</kbd>
    </button>
  );
}

function Reading({
  id,
  content,
  hit,
}: {
  readonly id: ReadingId | 'found';
  readonly content: Content;
  readonly hit: HitTarget | undefined;
}): ReactNode {
  switch (id) {
    case 'tree':
    case 'table':
      return <JsonReading id={id} content={content} hit={hit} />;
    case 'raw':
    case 'source':
      return <CodeReading content={content} />;
    case 'formatted':
      return <FormattedReading content={content} />;
    case 'picture':
      return <PictureReading content={content} />;
    case 'image':
      return <ImageReading content={content} />;
    case 'specimen':
      return <FontReading content={content} />;
    case 'media':
      return <MediaReading content={content} />;
    case 'pages':
      return <PdfReading content={content} />;
    case 'records':
      return <RecordsReading content={content} />;
    case 'parts':
      return <PartsReading content={content} />;
    case 'merged':
      return <MergedReading content={content} />;
    case 'fields':
      return <FormReading content={content} />;
    case 'bytes':
      return <HexReading content={content} />;
    case 'found':
      return <CodeText text={content.text ?? ''} isJson={false} hit={hit} />;
    default:
      return id satisfies never;
  }
}

interface JsonReadingProps {
  readonly id: 'tree' | 'table';
  readonly content: Content;
  readonly hit: HitTarget | undefined;
}

function JsonReading({ id, content, hit }: JsonReadingProps) {
  const json = useJson(content);
  const tables = useMemo(
    () => (json.state === 'there' && !json.isBeginning ? findTables(json.tree).length : 0),
    [json],
  );
  if (json.state === 'failed') return <ReadingNote isProblem>It could not be read: {json.reason}.</ReadingNote>;
  if (id === 'table' && json.isBeginning) return <ReadingNote>Reading the JSON</ReadingNote>;
  if (id === 'table') return <TableReading json={json} name={content.fileName.replace(/\.json$/, '')} />;
  return (
    <>
      {json.isBeginning ? <ReadingNote>This is its beginning; the rest is being read</ReadingNote> : null}
      <TreeReading tree={json.tree} hit={hit} />
      {tables === 0 ? null : (
        <ReadingNote>{tables === 1 ? 'One array in it reads' : `${tables} arrays in it read`} as a table.</ReadingNote>
      )}
    </>
  );
}
