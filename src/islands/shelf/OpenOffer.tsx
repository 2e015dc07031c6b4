import { useState } from 'react';
import type { ProblemAnswer } from '#core/wire';
import { takeInLocal } from '../state/api';
import { Button } from '../ui/Button';

interface OpenOfferProps {
  readonly onTaken: () => void;
}

type OfferState =
  | { readonly step: 'asking' | 'taking' | 'done' }
  | { readonly step: 'failed'; readonly problem: ProblemAnswer };

/**
 * The offer of an address such as /?open=/home/me/load.har to take that file in. It waits for a click: a link from
 * anywhere may lead here, and must not make files be read by itself.
 */
export function OpenOffer({ onTaken }: OpenOfferProps) {
  const [path] = useState(() => new URLSearchParams(location.search).get('open'));
  const [state, setState] = useState<OfferState>({ step: 'asking' });
  if (path === null || state.step === 'done') return null;
  const take = async (): Promise<void> => {
    setState({ step: 'taking' });
    const answer = await takeInLocal(path);
    if (!answer.ok) {
      setState({ step: 'failed', problem: answer.problem });
      return;
    }
    setState({ step: 'done' });
    onTaken();
    const [only] = answer.value;
    if (answer.value.length === 1 && only !== undefined && only.type !== 'unreadable')
      location.assign(`/c/${only.id}/brief`);
  };
  return (
    <section aria-label="File to import" className="flex items-center gap-4 border-line border-b bg-sheet px-5 py-2.5">
      {state.step === 'failed' ? (
        <p role="alert" className="min-w-0 flex-1 border-failed border-l-2 pl-3">
          {state.problem.sentence} {state.problem.advice}
        </p>
      ) : (
        <p className="min-w-0 flex-1 truncate">
          Import <b className="font-mono">{path}</b> from this machine?
        </p>
      )}
      {state.step === 'taking' ? <span role="status">Importing</span> : <Button onClick={take}>Import</Button>}
      <Button onClick={() => setState({ step: 'done' })}>Leave it</Button>
    </section>
  );
}
