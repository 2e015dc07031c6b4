import { useState } from 'react';
import type { ExchangeRow, PageOverview } from '#core/analysis';
import { WHAT_IF_KINDS, type WhatIfAnswer, type WhatIfKind } from '#core/brief';
import { formatMs } from '#core/wording';
import { Button } from '../ui/Button';
import { Choice } from '../ui/Choice';
import { Problem } from '../ui/Problem';
import { useWhatIf } from './use-what-if';

interface WhatIfProps {
  readonly captureId: string;
  readonly rows: readonly ExchangeRow[];
  readonly page: PageOverview | undefined;
}

const KIND_WORD: Record<WhatIfKind, string> = {
  'leave-out': 'were left out',
  'answer-in': 'got a response in',
  'from-cache': 'came from cache',
  'download-share': 'downloaded in half the time',
  'start-at': 'were referenced in the document',
};

/** The load played again with a change: its new time, and what it would wait for then. */
export default function WhatIf({ captureId, rows, page }: WhatIfProps) {
  const [asked, setAsked] = useState<string>();
  const [kind, setKind] = useState<WhatIfKind>('leave-out');
  const [waitMs, setWaitMs] = useState(100);
  const [state, again] = useWhatIf(captureId, page, rows, { subject: asked, kind, waitMs });
  if (state.state === 'failed')
    return (
      <Problem problem={state.problem}>
        <Button onClick={again}>Try again</Button>
      </Problem>
    );
  const answer = state.state === 'there' ? state.answer : undefined;
  if (state.state === 'there' && answer === undefined) return null;
  return (
    <section aria-label="What if" className="mt-6">
      <h2 className="mb-1 font-bold">What if</h2>
      <div className="flex flex-wrap items-center gap-x-2 text-[13px]">
        <Choice
          label="What"
          value={answer?.subjects.find(([id]) => id === asked)?.[0] ?? answer?.subject ?? ''}
          options={answer?.subjects ?? []}
          onChoose={setAsked}
        />
        <Choice
          label="Change"
          value={kind}
          options={WHAT_IF_KINDS.map((id) => [id, KIND_WORD[id]] as const)}
          onChoose={setKind}
        />
        {kind === 'answer-in' ? (
          <label className="flex items-center gap-1 text-soft">
            <input
              type="number"
              min={0}
              aria-label="Server wait in ms"
              value={waitMs}
              onChange={({ target }) => setWaitMs(Math.max(0, Number(target.value) || 0))}
              className="w-20 border border-line bg-paper px-1 text-ink"
            />
            ms
          </label>
        ) : null}
      </div>
      <p className="mt-1" role="status" data-what-if>
        {answer === undefined ? 'The load is being played again…' : <Outcome outcome={answer.outcome} />}
      </p>
      <p className="text-[12px] text-soft">
        Simulated from what waited for what: gaps stay as recorded, six connections to a host are kept, and a full
        connection gives no more than it gave. Not taken into account: connections that would have to be set up
        elsewhere, and work that the browser would no longer have.
      </p>
    </section>
  );
}

function Outcome({ outcome }: Pick<WhatIfAnswer, 'outcome'>) {
  if (outcome === undefined) return <>Without its document there would be no load.</>;
  const { wholeMs, newMs, route } = outcome;
  if (newMs === wholeMs)
    return (
      <>
        It would take {formatMs(newMs)} all the same: what it waits for in the end comes no sooner. {route}
      </>
    );
  return (
    <>
      It would take <b className="font-semibold">{formatMs(newMs)}</b> instead of {formatMs(wholeMs)},{' '}
      {formatMs(Math.abs(wholeMs - newMs))} {newMs < wholeMs ? 'less' : 'more'}. {route}
    </>
  );
}
