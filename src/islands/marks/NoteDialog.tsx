import { useStore } from '@nanostores/react';
import { type FormEvent, type KeyboardEvent, useEffect, useRef, useState } from 'react';
import { Button } from '../ui/Button';
import { $marks, $noting, changeMark, markOf } from './marks-store';

/** Where a note is written, whatever it is on. */
export function NoteDialog() {
  const noting = useStore($noting);
  const marks = useStore($marks);
  const dialog = useRef<HTMLDialogElement>(null);
  const [text, setText] = useState('');
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is typed stays while other notes come in.
  useEffect(() => {
    if (noting === undefined) return;
    setText(markOf(marks, noting.target).note);
    dialog.current?.showModal();
  }, [noting]);
  const submit = (event?: FormEvent): void => {
    event?.preventDefault();
    if (noting !== undefined && text.trim() !== markOf(marks, noting.target).note)
      changeMark(noting.target, { note: text.trim() }, text.trim() === '' ? 'Note deleted.' : 'Noted.');
    dialog.current?.close();
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) submit();
  };
  return (
    <dialog
      ref={dialog}
      aria-label="Note"
      onClose={() => $noting.set(undefined)}
      className="m-auto w-120 border border-ink bg-sheet p-5 text-ink backdrop:bg-shade"
    >
      {noting === undefined ? null : (
        <form onSubmit={submit}>
          <label className="block font-bold">
            Note on {noting.name}
            <textarea
              autoFocus
              value={text}
              maxLength={10_000}
              onChange={({ target }) => setText(target.value)}
              onKeyDown={onKeyDown}
              className="mt-2 block h-32 w-full border border-line bg-paper p-2 font-normal"
            />
          </label>
          <p className="mt-1 text-[12px] text-soft">Notes go into reports, and into saved HAR files as comments.</p>
          <p className="mt-3 flex justify-end gap-2">
            <Button onClick={() => dialog.current?.close()} hint="Esc">
              Cancel
            </Button>
            <Button isSubmit isMain hint="Ctrl+Enter">
              Save the note
            </Button>
          </p>
        </form>
      )}
    </dialog>
  );
}
