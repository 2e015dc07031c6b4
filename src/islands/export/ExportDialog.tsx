import { Suspense, useRef, useState } from 'react';
import type { ExchangeRow } from '#core/analysis';
import type { CaptureCard } from '#core/wire';
import { Boundary } from '../ui/Boundary';
import { Button } from '../ui/Button';
import { later } from '../ui/later';
import { useControl } from '../ui/use-actions';
import type { ExportChart, ExportTable, Said } from './exported';

interface ExportDialogProps {
  readonly card: CaptureCard;
  /** What the view shows; asked for only while the dialog is open, since the view is drawn far more often. */
  readonly exchanges: () => readonly ExchangeRow[];
  readonly tables?: () => readonly ExportTable[];
  readonly chart?: ExportChart;
}

const ExportContent = later(() => import('./ExportContent'));

const EXPORT = { id: 'export', label: 'Export what this view shows as a file', keys: ['x'] };

/** Exports what a view shows: the exchanges in several forms, its own lists, and the chart where it is one. */
export function ExportDialog({ card, exchanges, tables, chart }: ExportDialogProps) {
  const dialog = useRef<HTMLDialogElement>(null);
  const button = useControl<HTMLButtonElement>(EXPORT, 'click');
  const [isOpen, setIsOpen] = useState(false);
  // The dialog stays after saving, since often one file is not all that is wanted, and covers the notices.
  const [said, setSaid] = useState<Said>();
  const close = (): void => dialog.current?.close();
  return (
    <>
      <button
        type="button"
        ref={button}
        aria-keyshortcuts="x"
        title="Export what this view shows as a file (x)"
        onClick={() => {
          setSaid(undefined);
          setIsOpen(true);
          dialog.current?.showModal();
        }}
        className="text-[13px] text-soft underline hover:text-ink"
      >
        export
      </button>
      <dialog
        ref={dialog}
        aria-label="Export"
        onClose={() => setIsOpen(false)}
        // At one height, however much of it is still to come: a button must not move from under the pointer.
        className="mx-auto mt-[8vh] mb-auto max-h-[86vh] w-130 whitespace-normal border border-ink bg-sheet p-5 text-left text-base text-ink backdrop:bg-shade"
      >
        {isOpen ? (
          <Boundary>
            <Suspense fallback={<p>Loading</p>}>
              <ExportContent
                card={card}
                exchanges={exchanges()}
                tables={tables?.() ?? []}
                chart={chart}
                onSaid={setSaid}
              />
            </Suspense>
          </Boundary>
        ) : null}
        <p className="mt-5 flex flex-wrap items-center justify-between gap-3 text-[14px]">
          <span role="status" className="min-w-0 flex-1 [overflow-wrap:anywhere]">
            {said === undefined ? null : <b className="font-semibold">{said.text}</b>}{' '}
            {said?.detail === undefined ? null : <span className="text-soft">{said.detail}</span>}
          </span>
          <Button onClick={close} hint="Esc">
            Close
          </Button>
        </p>
      </dialog>
    </>
  );
}
