import { useStore } from '@nanostores/react';
import { atom } from 'nanostores';
import { useEffect, useRef } from 'react';
import type { ExchangeRow } from '#core/analysis';
import { goTo } from '../state/address';
import { useReturnOfFocus } from '../state/focus';
import { tell } from '../state/notices';
import { Button } from '../ui/Button';

const $isAsked = atom(false);

/** Asks for the number of an exchange. */
export const askNumber = (): void => $isAsked.set(true);

/** A small dialog that takes a number and goes to its exchange. */
export function GoToNumber({ rows }: { readonly rows: readonly ExchangeRow[] }) {
  return useStore($isAsked) ? <NumberDialog rows={rows} /> : null;
}

function NumberDialog({ rows }: { readonly rows: readonly ExchangeRow[] }) {
  const dialog = useRef<HTMLDialogElement>(null);
  const input = useRef<HTMLInputElement>(null);
  useReturnOfFocus();
  useEffect(() => dialog.current?.showModal(), []);
  const go = (): void => {
    const number = Number(input.current?.value.replace(/^#/, ''));
    dialog.current?.close();
    if (rows.some(({ index }) => index === number)) goTo({ exchange: number, lane: undefined, hit: undefined });
    else
      tell(`There is no exchange ${input.current?.value}.`, {
        detail: `They are numbered 0 to ${rows.at(-1)?.index ?? 0}.`,
      });
  };
  return (
    <dialog
      ref={dialog}
      aria-label="Go to an exchange"
      onClose={() => $isAsked.set(false)}
      className="m-auto border border-ink bg-sheet p-4 text-ink backdrop:bg-shade"
    >
      <form
        method="dialog"
        className="flex items-center gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          go();
        }}
      >
        <label className="flex items-center gap-2">
          Exchange number
          <input ref={input} inputMode="numeric" className="h-8 w-24 border border-soft bg-paper px-2 font-mono" />
        </label>
        <Button onClick={go} isMain>
          Go to it
        </Button>
      </form>
    </dialog>
  );
}
