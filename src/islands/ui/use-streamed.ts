import { useCallback, useEffect, useRef, useState } from 'react';
import type { ProblemAnswer } from '#core/wire';
import type { Answer } from '../state/api';

/** What is made while its progress is told: under way, there, not to be had, or given up. */
export type Streamed<Progress, T> =
  | { readonly state: 'making'; readonly progress: Progress | undefined }
  | { readonly state: 'made'; readonly value: T }
  | { readonly state: 'failed'; readonly problem: ProblemAnswer }
  | { readonly state: 'cancelled' };

/** Makes it: tells of progress and of the end, until the signal aborts. */
export type Make<Progress, T> = (
  tell: (told: Streamed<Progress, T>) => void,
  signal: AbortSignal,
) => Promise<Answer<undefined>>;

export interface StreamedState<Progress, T> {
  readonly streamed: Streamed<Progress, T>;
  readonly again: () => void;
  readonly cancel: () => void;
}

/**
 * Makes something whenever `make` changes, once changes rest, and on demand; what was made for another `make` is none of this
 * one's, from the very drawing that it changes in.
 * @param make undefined where there is nothing to be made
 */
export function useStreamed<Progress, T>(
  make: Make<Progress, T> | undefined,
  restMs: number,
): StreamedState<Progress, T> {
  const [told, setTold] = useState<{ readonly of: typeof make; readonly streamed: Streamed<Progress, T> }>();
  const [round, setRound] = useState(0);
  const running = useRef<AbortController>(undefined);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new round makes it again.
  useEffect(() => {
    if (make === undefined) return undefined;
    const abort = new AbortController();
    running.current = abort;
    const { signal } = abort;
    const tell = (streamed: Streamed<Progress, T>): void => {
      if (!signal.aborted) setTold({ of: make, streamed });
    };
    tell({ state: 'making', progress: undefined });
    const timer = setTimeout(async () => {
      const answer = await make(tell, signal);
      if (!answer.ok) tell({ state: 'failed', problem: answer.problem });
    }, restMs);
    return () => {
      clearTimeout(timer);
      abort.abort();
    };
  }, [make, restMs, round]);
  const again = useCallback(() => setRound((count) => count + 1), []);
  const cancel = useCallback(() => {
    running.current?.abort();
    setTold({ of: make, streamed: { state: 'cancelled' } });
  }, [make]);
  const isCurrent = make !== undefined && told?.of === make;
  return { streamed: isCurrent ? told.streamed : { state: 'making', progress: undefined }, again, cancel };
}
