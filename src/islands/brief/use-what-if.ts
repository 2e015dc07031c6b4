import { useCallback, useEffect, useRef, useState } from 'react';
import type { ExchangeRow, PageOverview } from '#core/analysis';
import type { WhatIfAnswer, WhatIfQuestion } from '#core/brief';
import type { ProblemAnswer } from '#core/wire';
import type { FromWhatIfWorker, ToWhatIfWorker } from '../../workers/what-if.worker';

type WhatIfState =
  | { readonly state: 'loading' }
  | { readonly state: 'failed'; readonly problem: ProblemAnswer }
  /** Undefined where nothing of the load has a start. */
  | { readonly state: 'there'; readonly answer: WhatIfAnswer | undefined };

const LOADING: WhatIfState = { state: 'loading' };
const BROKEN: ProblemAnswer = {
  code: 'internal',
  sentence: 'The load could not be played again.',
  advice: 'Load this page again.',
};

/**
 * What a load would be with a change, from a worker of its own. While a new question is open the last answer stands.
 * @param rows of the page, as they are now: where they change, the load is made anew
 */
export function useWhatIf(
  captureId: string,
  page: PageOverview | undefined,
  rows: readonly ExchangeRow[],
  question: WhatIfQuestion,
): readonly [WhatIfState, again: () => void] {
  const [round, setRound] = useState(0);
  const [state, setState] = useState(LOADING);
  const again = useCallback(() => {
    setState(LOADING);
    setRound((count) => count + 1);
  }, []);
  const worker = useRef<Worker>(undefined);
  const number = useRef(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the worker fetches the rows anew where they change.
  useEffect(() => {
    const own = new Worker(new URL('../../workers/what-if.worker.ts', import.meta.url), { type: 'module' });
    own.onmessage = ({ data }: MessageEvent<FromWhatIfWorker>) => {
      if (data.type === 'problem') setState({ state: 'failed', problem: data.problem });
      else if (data.number === number.current) setState({ state: 'there', answer: data.answer });
    };
    own.onerror = () => setState({ state: 'failed', problem: BROKEN });
    own.postMessage({ type: 'page', captureId, page } satisfies ToWhatIfWorker);
    worker.current = own;
    return () => own.terminate();
  }, [captureId, page, rows, round]);
  const { subject, kind, waitMs } = question;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new worker is asked anew.
  useEffect(() => {
    number.current++;
    const ask: ToWhatIfWorker = { type: 'ask', number: number.current, question: { subject, kind, waitMs } };
    worker.current?.postMessage(ask);
  }, [captureId, page, rows, round, subject, kind, waitMs]);
  return [state, again];
}
