import { type FormEvent, type KeyboardEvent, useLayoutEffect, useRef, useState } from 'react';
import { takeHeldTyping } from '../state/actions';
import { useReturnOfFocus } from '../state/focus';
import { Button } from '../ui/Button';
import { $marks, $noting, changeMark, markOf, type Noting } from './marks-store';

/** Takes a note, whatever it is on. */
export default function NoteDialog({ noting }: { readonly noting: Noting }) {
  const dialog = useRef<HTMLDialogElement>(null);
  const [text, setText] = useState(() => markOf($marks.get(), noting.target).note);
  useReturnOfFocus();
  const field = useRef<HTMLTextAreaElement>(null);
  // Once, as it opens; by a layout's effect, for the next key would find the field without what was held before it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: see above.
  useLayoutEffect(() => {
    const whole = text + takeHeldTyping();
    setText(whole);
    dialog.current?.showModal();
    // Whoever changes a note goes on behind it.
    field.current?.setSelectionRange(whole.length, whole.length);
  }, []);
  const submit = (event?: FormEvent): void => {
    event?.preventDefault();
    if (text.trim() !== markOf($marks.get(), noting.target).note)
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
      onClose={() => {
        if ($noting.get() === noting) $noting.set(undefined);
      }}
      className="m-auto w-120 border border-ink bg-sheet p-5 text-ink backdrop:bg-shade"
    >
      <form onSubmit={submit}>
        <label className="block font-bold">
          Note on {noting.name}
          <textarea
            ref={field}
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
    </dialog>
  );
}
