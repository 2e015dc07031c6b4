import { useLayoutEffect, useRef } from 'react';
import type { ExchangeRow } from '#core/analysis';
import { takeHeldLine } from '../state/actions';
import { goTo } from '../state/address';
import { useReturnOfFocus } from '../state/focus';
import { tell } from '../state/notices';
import { Button } from '../ui/Button';
import type { Placed } from '../waterfall/arrange';

export interface GoToNumberProps {
  readonly rows: readonly ExchangeRow[];
  /** Those that page, filter and noise let through. */
  readonly placed: readonly Placed[];
}

/** Takes a number and goes to its exchange, or says why it cannot. */
export default function NumberDialog({ rows, placed, onClosed }: GoToNumberProps & { readonly onClosed: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null);
  const input = useRef<HTMLInputElement>(null);
  useReturnOfFocus();
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, as it opens.
  useLayoutEffect(() => {
    const typed = takeHeldLine();
    if (input.current !== null) input.current.value = typed.line;
    dialog.current?.showModal();
    // Entered before the dialog was there: it goes as it would have gone.
    if (typed.isEntered) go();
  }, []);
  const go = (): void => {
    const typed = input.current?.value.trim() ?? '';
    const number = /^#?\d+$/.test(typed) ? Number(typed.replace('#', '')) : undefined;
    dialog.current?.close();
    const to = { exchange: number, lane: undefined, hit: undefined };
    const all = { page: 'all', filter: '', hidden: [], window: undefined };
    if (placed.some(({ row }) => row.index === number)) goTo(to);
    else if (rows.some(({ index }) => index === number)) {
      tell(`Exchange ${number} is not among those shown.`, {
        action: { label: 'Show all and go to it', run: () => goTo({ ...all, ...to }) },
      });
    } else if (typed !== '') {
      tell(`There is no exchange ${typed.slice(0, 40)}.`, {
        detail: `They are numbered 0 to ${rows.at(-1)?.index ?? 0}.`,
      });
    }
  };
  return (
    <dialog
      ref={dialog}
      aria-label="Go to an exchange"
      onClose={onClosed}
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
