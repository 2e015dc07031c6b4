import { useEffect, useRef } from 'react';
import type { CaptureCard } from '#core/wire';
import { formatPlural } from '#core/wording';
import { goTo } from '../state/address';
import { useReturnOfFocus } from '../state/focus';
import { Button } from '../ui/Button';

export interface ConditionReportProps {
  readonly overview: Pick<CaptureCard['overview'], 'condition' | 'fine'>;
}

/** What was checked, what the capture cannot answer, and what to do about it. */
export default function ConditionDialog({
  overview,
  onClose,
}: ConditionReportProps & { readonly onClose: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null);
  useReturnOfFocus();
  useEffect(() => dialog.current?.showModal(), []);
  const show = (about: readonly number[]): void => {
    onClose();
    const filter = `number in (${about.join(', ')})`;
    goTo({ view: 'waterfall', page: 'all', filter, hidden: [], exchange: undefined, lane: undefined, isOpen: false });
  };
  return (
    <dialog
      ref={dialog}
      aria-label="The state of this capture"
      onClose={onClose}
      className="m-auto max-h-[90dvh] w-140 max-w-[95vw] overflow-y-auto border border-ink bg-sheet p-0 text-ink backdrop:bg-shade"
    >
      <div className="p-5">
        <h2 className="mb-2 font-bold text-base">The state of this capture</h2>
        <ul aria-label="Remarks">
          {overview.condition.map(({ id, sentence, advice, about = [] }) => (
            <li key={id} className="border-line border-b py-2 first:pt-0">
              <p className="font-semibold [overflow-wrap:anywhere]">{sentence}</p>
              <p className="text-soft [overflow-wrap:anywhere]">{advice}</p>
              {about.length === 0 ? null : (
                <button type="button" className="min-h-6 underline" onClick={() => show(about)}>
                  Show {about.length === 1 ? 'this exchange' : `these ${formatPlural(about.length, 'exchange')}`}
                </button>
              )}
            </li>
          ))}
        </ul>
        <ul aria-label="Checked and fine" className="mt-3 text-soft">
          {overview.fine.map((sentence) => (
            <li key={sentence} className="py-0.5">
              <span aria-hidden="true">✓ </span>
              {sentence}
            </li>
          ))}
        </ul>
        <p className="mt-4 text-right">
          <Button onClick={() => dialog.current?.close()} hint="Esc">
            Close
          </Button>
        </p>
      </div>
    </dialog>
  );
}
