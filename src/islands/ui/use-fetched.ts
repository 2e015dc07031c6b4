import { useCallback, useEffect, useState } from 'react';
import type { ProblemAnswer } from '#core/wire';
import type { Answer } from '../state/api';

/** What is fetched is still on its way, there, or not to be had. */
export type Fetched<T> =
  | { readonly state: 'loading' }
  | { readonly state: 'there'; readonly value: T }
  | { readonly state: 'failed'; readonly problem: ProblemAnswer };

/** Fetches when `fetchIt` changes and on demand; an answer that was overtaken by a later one is dropped. */
export function useFetched<T>(fetchIt: () => Promise<Answer<T>>): readonly [Fetched<T>, () => void] {
  const [fetched, setFetched] = useState<Fetched<T>>({ state: 'loading' });
  const [round, setRound] = useState(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new round fetches again.
  useEffect(() => {
    let isCurrent = true;
    fetchIt().then((answer) => {
      if (!isCurrent) return;
      setFetched(answer.ok ? { state: 'there', value: answer.value } : { state: 'failed', problem: answer.problem });
    });
    return () => {
      isCurrent = false;
    };
  }, [fetchIt, round]);
  const again = useCallback(() => setRound((count) => count + 1), []);
  return [fetched, again];
}
