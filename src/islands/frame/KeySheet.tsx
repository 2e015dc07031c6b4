import { useStore } from '@nanostores/react';
import { useEffect, useRef } from 'react';
import { $actionsByRank, type Rank } from '../state/actions';
import { Button, KeyHint } from '../ui/Button';

interface KeySheetProps {
  readonly onClose: () => void;
  /** Goes to the list in which actions are searched and run. */
  readonly onSearch: () => void;
}

const RANK_TITLE: Record<Rank, string> = {
  view: 'In this view',
  exchange: 'With the current exchange',
  capture: 'In this capture',
  everywhere: 'Everywhere',
};

/** Every key that does something here, on one sheet. */
export default function KeySheet({ onClose, onSearch }: KeySheetProps) {
  const dialog = useRef<HTMLDialogElement>(null);
  const ranks = useStore($actionsByRank);
  useEffect(() => dialog.current?.showModal(), []);
  return (
    <dialog
      ref={dialog}
      onClose={onClose}
      aria-label="All keys"
      className="m-auto max-h-[94vh] w-[min(1180px,96vw)] border border-ink bg-sheet p-5 text-ink backdrop:bg-shade"
    >
      <div className="mb-3 flex items-center justify-between gap-4">
        <h2 className="font-bold text-base">All keys</h2>
        <span className="flex gap-2">
          <Button onClick={onSearch} hint="Ctrl+k">
            Search and run actions
          </Button>
          <Button onClick={() => dialog.current?.close()} hint="Esc">
            Close
          </Button>
        </span>
      </div>
      <div className="columns-3 gap-8 max-lg:columns-2 max-md:columns-1">
        {ranks.map(({ rank, actions }) => {
          const keyed = actions.filter(({ keys }) => keys.length > 0);
          return keyed.length === 0 ? null : (
            <section key={rank} aria-label={RANK_TITLE[rank]} className="mb-4">
              <h3 className="mb-1 break-after-avoid font-bold text-[13px]">{RANK_TITLE[rank]}</h3>
              <dl className="text-[13px]">
                {keyed.map(({ id, label, keys }) => (
                  <div key={id} className="flex break-inside-avoid justify-between gap-3 border-grid border-t py-0.5">
                    <dt className="min-w-0">{label}</dt>
                    <dd className="shrink-0">
                      <KeyHint keys={keys.join(' or ')} />
                    </dd>
                  </div>
                ))}
              </dl>
            </section>
          );
        })}
      </div>
    </dialog>
  );
}
