import { useStore } from '@nanostores/react';
import type { MarkTarget } from '#core/marks';
import { $marks, markOf, noteOn, toggleMark } from './marks-store';

interface NoteControlsProps {
  readonly target: MarkTarget;
  /** What it is called where it is spoken of: "#12", "this finding". */
  readonly name: string;
  /** Seen where the row they stand in is pointed at, or has the focus, or is marked. */
  readonly isQuiet?: boolean;
}

/** The ways to mark a thing, and to note something on it. */
export function NoteControls({ target, name, isQuiet = false }: NoteControlsProps) {
  const { isMarked, note } = markOf(useStore($marks), target);
  const look = isQuiet && !isMarked ? 'opacity-0 focus-within:opacity-100 group-hover:opacity-100' : '';
  return (
    <span className={`inline-flex items-baseline gap-2 text-[12px] ${look}`}>
      <button
        type="button"
        aria-pressed={isMarked}
        aria-label={`Mark ${name}`}
        onClick={() => toggleMark(target, name)}
        className={`underline hover:text-ink ${isMarked ? 'font-bold text-ink' : 'text-soft'}`}
      >
        {isMarked ? 'marked' : 'mark'}
      </button>
      <button
        type="button"
        aria-label={`${note === '' ? 'Note something on' : 'Change the note on'} ${name}`}
        onClick={() => noteOn(target, name)}
        className="text-soft underline hover:text-ink"
      >
        {note === '' || isQuiet ? 'note' : 'change the note'}
      </button>
    </span>
  );
}

/** What somebody noted on a thing; nothing where nobody has. */
export function NoteText({ target }: Pick<NoteControlsProps, 'target'>) {
  const { note } = markOf(useStore($marks), target);
  if (note === '') return null;
  return (
    <span
      data-note=""
      className="mt-1 block basis-full whitespace-pre-wrap border-ink border-l-2 pl-2 text-[13px] text-ink"
    >
      {note}
    </span>
  );
}

/** Both of them. */
export function NoteLine(props: Omit<NoteControlsProps, 'isQuiet'>) {
  return (
    <>
      <NoteControls {...props} />
      <NoteText target={props.target} />
    </>
  );
}
