import { useStore } from '@nanostores/react';
import type { MarkTarget } from '#core/marks';
import { $marks, $noting, markOf, toggleMark } from './marks-store';

interface NoteLineProps {
  readonly target: MarkTarget;
  /** What it is called where it is spoken of: "#12", "This finding". */
  readonly name: string;
  /** Its controls are seen where the row they stand in is pointed at, or has the focus. */
  readonly isQuiet?: boolean;
}

/** What somebody noted on a thing, and the ways to mark it and to note something. */
export function NoteLine({ target, name, isQuiet = false }: NoteLineProps) {
  const { isMarked, note } = markOf(useStore($marks), target);
  return (
    <>
      <span
        className={`inline-flex items-baseline gap-2 text-[12px] ${isQuiet && !isMarked ? 'sr-only focus-within:not-sr-only group-hover:not-sr-only' : ''}`}
      >
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
          onClick={() => $noting.set({ target, name })}
          className="text-soft underline hover:text-ink"
        >
          {note === '' ? 'note' : 'change the note'}
        </button>
      </span>
      {note === '' ? null : (
        <span data-note="" className="mt-1 block basis-full whitespace-pre-wrap border-ink border-l-2 pl-2 text-[13px]">
          {note}
        </span>
      )}
    </>
  );
}
