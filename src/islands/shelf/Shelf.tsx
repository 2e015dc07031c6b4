import { useStore } from '@nanostores/react';
import { useEffect, useMemo, useRef } from 'react';
import type { CaptureCard } from '#core/wire';
import { takeIn } from '../frame/DropLayer';
import { Frame } from '../frame/Frame';
import { ZoneChooser } from '../frame/ZoneChooser';
import type { Action } from '../state/actions';
import { changeCapture, fetchCaptures } from '../state/api';
import { tell } from '../state/notices';
import { $uploads } from '../state/uploads';
import { Button } from '../ui/Button';
import { Loading, Problem } from '../ui/Problem';
import { useFetched } from '../ui/use-fetched';
import { ShelfCard } from './ShelfCard';

/** The home screen: every capture kept on this machine, and the ways to bring more. */
export function Shelf() {
  const [fetched, again] = useFetched(fetchCaptures);
  const picker = useRef<HTMLInputElement>(null);
  const uploads = useStore($uploads);
  const imported = Object.values(uploads).filter(({ state }) => state === 'ended').length;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another import that ended changes the shelf.
  useEffect(() => again(), [imported, again]);
  const pick = (): void => picker.current?.click();
  const actions = useMemo(
    (): Action[] => [
      { id: 'pick', label: 'Choose a file to put on the shelf', keys: ['o'], run: () => picker.current?.click() },
    ],
    [],
  );
  const remove = async (card: CaptureCard): Promise<void> => {
    const answer = await changeCapture(card.id, { deleted: true });
    if (!answer.ok) {
      tell(answer.problem.sentence, { detail: answer.problem.advice });
      return;
    }
    again();
    const undo = async (): Promise<void> => {
      await changeCapture(card.id, { deleted: false });
      again();
      tell(`"${card.name}" is back on the shelf.`);
    };
    tell(`"${card.name}" was deleted.`, { action: { label: 'Undo', run: undo } });
  };
  const bar = (
    <>
      <h1 className="font-bold text-base">Shelf</h1>
      <span className="flex-1 text-soft">Drop HAR files anywhere, or paste one.</span>
      <ZoneChooser recorded={undefined} isShelf epoch={Date.now()} />
      <Button onClick={pick} hint="o" isMain>
        Choose a file
      </Button>
    </>
  );
  return (
    <Frame view="shelf" bar={bar} actions={actions}>
      <input
        ref={picker}
        type="file"
        multiple
        accept=".har,.json,.zip,.gz,application/json"
        aria-label="HAR files"
        className="hidden"
        onChange={(event) => {
          takeIn([...(event.target.files ?? [])]);
          event.target.value = '';
        }}
      />
      <div className="min-h-0 flex-1 overflow-auto p-5">
        {fetched.state === 'loading' ? <Loading what="the shelf" /> : null}
        {fetched.state === 'failed' ? (
          <Problem problem={fetched.problem}>
            <Button onClick={again}>Try again</Button>
          </Problem>
        ) : null}
        {fetched.state === 'there' && fetched.value.length === 0 ? <EmptyShelf onPick={pick} /> : null}
        {fetched.state === 'there' ? (
          <ul className="flex flex-col gap-3">
            {fetched.value.map((card) => (
              <ShelfCard key={card.id} card={card} onDelete={() => remove(card)} />
            ))}
          </ul>
        ) : null}
      </div>
    </Frame>
  );
}

function EmptyShelf({ onPick }: { readonly onPick: () => void }) {
  return (
    <div className="mx-auto mt-20 max-w-xl border border-line border-dashed bg-sheet p-10">
      <h2 className="font-bold text-xl">Nothing is on the shelf yet.</h2>
      <p className="mt-2 text-soft">
        Drop a HAR file anywhere on this page, paste its text, or choose it. It stays on this machine: nothing is sent
        anywhere.
      </p>
      <p className="mt-2 text-soft">
        To record one, open your browser's network recorder before the page loads, load the page, and save everything as
        HAR with content.
      </p>
      <div className="mt-5">
        <Button onClick={onPick} hint="o" isMain>
          Choose a file
        </Button>
      </div>
    </div>
  );
}
