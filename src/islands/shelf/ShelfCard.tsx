import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { savedShare } from '#core/analysis';
import type { CaptureCard } from '#core/wire';
import { formatBytes, formatCount, formatExactBytes, formatInstant, formatShare, formatZone } from '#core/wording';
import { offsetOf } from '../frame/ZoneChooser';
import type { Action } from '../state/actions';
import { $place } from '../state/address';
import { useActions } from '../ui/use-actions';
import { Miniature } from './Miniature';

interface ShelfCardProps {
  readonly card: CaptureCard;
  /** The ports at which rehearsals of it run. */
  readonly ports: readonly number[];
  /** Chosen among several, to be deleted or exported together. */
  readonly isChosen: boolean;
  readonly onChoose: () => void;
  /** The side of a comparison that it is marked for. */
  readonly side: 'A' | 'B' | undefined;
  readonly onSide: (side: 'A' | 'B') => void;
  readonly onDelete: () => void;
  readonly onRename: (name: string) => void;
  readonly onNote: (note: string) => void;
}

const NONE: readonly Action[] = [];
const SIDES = ['A', 'B'] as const;

/** Whether the focus is in an element that has these handlers. */
function useFocusWithin() {
  const [isWithin, setIsWithin] = useState(false);
  const handlers = {
    onFocus: () => setIsWithin(true),
    onBlur: ({ currentTarget, relatedTarget }: React.FocusEvent) =>
      setIsWithin(relatedTarget instanceof Node && currentTarget.contains(relatedTarget)),
  };
  return { isWithin, handlers };
}

type Editing = 'name' | 'note' | undefined;

/**
 * One capture: its miniature, its sentence, whence it comes, what it weighs, and what is wrong with it.
 * Long because it is the markup of one card with all that is done by it.
 */
export function ShelfCard({
  card,
  ports,
  isChosen,
  onChoose,
  side,
  onSide,
  onDelete,
  onRename,
  onNote,
}: ShelfCardProps) {
  const [editing, setEditing] = useState<Editing>(undefined);
  const { tally, miniature } = card.overview;
  const focus = useFocusWithin();
  const does: readonly Action[] = [
    {
      id: 'choose-card',
      label: 'Choose the current capture, or leave it out again',
      keys: ['x'],
      run: onChoose,
    },
    {
      id: 'side-a',
      label: 'Mark the current capture for side A of a comparison, or take that back',
      keys: ['a'],
      run: () => onSide('A'),
    },
    {
      id: 'side-b',
      label: 'Mark the current capture for side B of a comparison, or take that back',
      keys: ['b'],
      run: () => onSide('B'),
    },
    { id: 'rename-card', label: 'Rename the current capture', keys: ['n'], run: () => setEditing('name') },
    { id: 'note-card', label: 'Write a note on the current capture', keys: ['e'], run: () => setEditing('note') },
    { id: 'delete-card', label: 'Delete the current capture', keys: ['Delete'], run: onDelete },
  ];
  useActions('exchange', focus.isWithin ? does : NONE);
  const finish = (text: string | undefined): void => {
    if (text !== undefined && editing === 'name' && text.trim() !== '' && text !== card.name) onRename(text);
    if (text !== undefined && editing === 'note' && text !== card.note) onNote(text);
    setEditing(undefined);
  };
  return (
    <div
      {...focus.handlers}
      className={`flex h-full items-stretch border bg-sheet hover:border-soft ${isChosen ? 'border-ink' : 'border-line'}`}
    >
      {editing === undefined ? (
        <a
          href={`/c/${card.id}/brief`}
          className="grid min-w-0 flex-1 grid-cols-[220px_minmax(0,1fr)_auto] items-center gap-5 px-4 max-md:grid-cols-[minmax(0,1fr)_auto] max-md:gap-3 max-md:px-2"
        >
          <span className="max-md:hidden">
            <Miniature slots={miniature} />
          </span>
          <CardText card={card} ports={ports} />
          <dl className="w-42 text-[13px] leading-tight">
            <Figure value={formatCount(tally.exchanges)} word={tally.exchanges === 1 ? 'exchange' : 'exchanges'} />
            <Figure value={formatBytes(tally.wireBytes)} exact={formatExactBytes(tally.wireBytes)} word="on the wire" />
            <Figure value={formatBytes(tally.bodyBytes)} exact={formatExactBytes(tally.bodyBytes)} word="decoded" />
            <Figure value={formatShare(savedShare(tally))} word="from cache" />
          </dl>
        </a>
      ) : (
        <EditField
          label={editing === 'name' ? `Name of ${card.name}` : `Note on ${card.name}`}
          text={editing === 'name' ? card.name : card.note}
          onEnd={finish}
        />
      )}
      <div className="flex w-8 shrink-0 flex-col border-line border-l text-[13px]">
        {SIDES.map((one) => (
          <button
            key={one}
            type="button"
            aria-pressed={side === one}
            aria-label={`${card.name}: side ${one} of a comparison`}
            title={`Mark for side ${one} of a comparison`}
            onClick={() => onSide(one)}
            className={`flex-1 font-bold ${side === one ? 'bg-ink text-paper' : 'text-soft hover:bg-paper hover:text-ink'}`}
          >
            {one}
          </button>
        ))}
      </div>
      <div className="flex w-20 shrink-0 flex-col border-line border-l text-[13px]">
        <label className="flex flex-1 items-center justify-center gap-1.5 text-soft hover:bg-paper hover:text-ink">
          <input type="checkbox" checked={isChosen} onChange={onChoose} aria-label={`Choose ${card.name}`} />
          Choose
        </label>
        <CardButton word="Rename" label={`Rename ${card.name}`} onClick={() => setEditing('name')} />
        <CardButton word="Note" label={`Write a note on ${card.name}`} onClick={() => setEditing('note')} />
        <CardButton word="Delete" label={`Delete ${card.name}`} onClick={onDelete} />
      </div>
    </div>
  );
}

function CardText({ card, ports }: Pick<ShelfCardProps, 'card' | 'ports'>) {
  const { overview } = card;
  const [worst] = overview.condition;
  const more = overview.condition.length > 1 ? ` And ${overview.condition.length - 1} more.` : '';
  return (
    <div className="min-w-0 leading-snug">
      <h2 className="truncate font-bold text-base" title={card.name}>
        {card.name}
      </h2>
      <p className="line-clamp-2" title={overview.sentence}>
        {overview.sentence}
        {card.isDiagnosed ? null : <span className="text-soft"> Its bodies are still being read; more is coming.</span>}
        {ports.length === 0 ? null : <span className="font-semibold"> Rehearsed at port {ports.join(', ')}.</span>}
        {card.note === '' ? null : <span className="ml-3 text-soft italic">{card.note}</span>}
      </p>
      <Recorded card={card} />
      {worst === undefined ? null : (
        <p
          className="truncate text-[13px]"
          title={overview.condition.map((one) => `${one.sentence} ${one.advice}`).join('\n')}
        >
          <span className="font-semibold">Condition:</span> {worst.sentence}
          {more}
        </p>
      )}
    </div>
  );
}

interface CardButtonProps {
  readonly word: string;
  readonly label: string;
  readonly onClick: () => void;
}

const CardButton = ({ word, label, onClick }: CardButtonProps) => (
  <button type="button" onClick={onClick} aria-label={label} className="flex-1 text-soft hover:bg-paper hover:text-ink">
    {word}
  </button>
);

interface EditFieldProps {
  readonly label: string;
  readonly text: string;
  /** The new text, or nothing where the edit was given up. */
  readonly onEnd: (text: string | undefined) => void;
}

function EditField({ label, text, onEnd }: EditFieldProps) {
  const [value, setValue] = useState(text);
  return (
    <div className="flex min-w-0 flex-1 items-center gap-4 px-4">
      <input
        // biome-ignore lint/a11y/noAutofocus: it appears where the user asked to write.
        autoFocus
        value={value}
        aria-label={label}
        onChange={(event) => setValue(event.target.value)}
        onBlur={() => onEnd(value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter') onEnd(value);
          else if (event.key === 'Escape') onEnd(undefined);
        }}
        className="w-full border border-soft bg-paper px-2 py-1.5 text-base"
      />
      <span className="shrink-0 text-[13px] text-soft">Enter to save, Esc to cancel</span>
    </div>
  );
}

interface FigureProps {
  readonly value: string;
  readonly exact?: string;
  readonly word: string;
}

function Figure({ value, exact, word }: FigureProps) {
  return (
    <div className="flex flex-row-reverse justify-end gap-2">
      <dt className="w-24 whitespace-nowrap text-soft">{word}</dt>
      <dd className="w-14 text-right font-bold" title={exact}>
        {value}
      </dd>
    </div>
  );
}

function Recorded({ card }: { readonly card: CaptureCard }) {
  const { zone } = useStore($place);
  const at = card.overview.recordedAt;
  const offset = offsetOf(zone, card.utcOffsetMinutes, at ?? 0);
  const when = at === undefined ? 'at an unknown time' : `${formatInstant(at, offset)} ${formatZone(offset)}`;
  const by = [card.recorder, card.browser].filter((program) => program !== undefined).join(', ');
  const recorder = by === '' ? 'by an unknown recorder' : `by ${by}`;
  const words = [card.overview.host ?? 'no host', `recorded ${when}`, recorder].join(', ');
  return (
    <p className="truncate text-[13px] text-soft" title={words}>
      {words}
    </p>
  );
}
