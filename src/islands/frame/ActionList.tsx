import { useStore } from '@nanostores/react';
import { useLayoutEffect, useRef, useState } from 'react';
import { $actions, type Action, takeHeldLine } from '../state/actions';
import { KeyHint } from '../ui/Button';
import { isMeantBy } from './action-words';

interface ActionListProps {
  readonly onClose: () => void;
}

/** Everything that can be done here, with its keys: to read, to search, to run. */
export default function ActionList({ onClose }: ActionListProps) {
  const dialog = useRef<HTMLDialogElement>(null);
  const [words, setWords] = useState('');
  const [place, setPlace] = useState(0);
  const actions = useStore($actions).filter((action) => isMeantBy(words, action));
  const run = (action: Action | undefined): void => {
    if (action === undefined) return;
    onClose();
    action.run();
  };
  // Once, as it opens; by a layout's effect, for the next key would find the field without what was held before it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: see above.
  useLayoutEffect(() => {
    const typed = takeHeldLine();
    setWords(typed.line);
    dialog.current?.showModal();
    // Entered before the list was there: it is run as it would have been.
    if (typed.isEntered) run($actions.get().find((action) => isMeantBy(typed.line, action)));
  }, []);
  const onKey = (event: React.KeyboardEvent): void => {
    if (event.key === 'ArrowDown') setPlace(Math.min(place + 1, actions.length - 1));
    else if (event.key === 'ArrowUp') setPlace(Math.max(place - 1, 0));
    else if (event.key === 'Enter') run(actions[place]);
    else return;
    event.preventDefault();
  };
  return (
    <dialog
      ref={dialog}
      onClose={onClose}
      onKeyDown={onKey}
      aria-label="All actions"
      className="mx-auto mt-[12vh] mb-auto w-140 border border-ink bg-sheet p-0 text-ink backdrop:bg-shade"
    >
      <input
        value={words}
        onChange={(event) => {
          setWords(event.target.value);
          setPlace(0);
        }}
        aria-label="Search the actions"
        placeholder="Search actions"
        className="w-full border-line border-b bg-sheet px-4 py-3 text-base outline-none"
      />
      <Matching actions={actions} place={place} onRun={run} />
    </dialog>
  );
}

interface MatchingProps {
  readonly actions: readonly Action[];
  /** Which of them Enter runs. */
  readonly place: number;
  readonly onRun: (action: Action) => void;
}

function Matching({ actions, place, onRun }: MatchingProps) {
  return (
    <ul className="max-h-96 overflow-auto py-1">
      {actions.map((action, at) => (
        <li key={action.id}>
          <button
            type="button"
            onClick={() => onRun(action)}
            className={`flex w-full justify-between px-4 py-1.5 text-left ${at === place ? 'current' : ''}`}
          >
            {action.label}
            <KeyHint keys={action.keys.join(' or ')} />
          </button>
        </li>
      ))}
      {actions.length === 0 ? (
        <li className="px-4 py-3 text-soft">No matching action. Clear the words to see all.</li>
      ) : null}
    </ul>
  );
}
