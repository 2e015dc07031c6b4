import { useCallback, useEffect, useRef, useState } from 'react';
import type { HandOffChoice } from '#core/redact';
import type { HandOffProgress, MadeHandOff, ProblemAnswer } from '#core/wire';
import { makeHandOff } from './hand-off-api';

type Progress = Extract<HandOffProgress, { type: 'progress' }>;

/** Where the making of what leaves stands; `last` is what was made before, while it is looked at further. */
export type Making =
  | { readonly state: 'making'; readonly progress: Progress | undefined; readonly last: MadeHandOff | undefined }
  | { readonly state: 'made'; readonly last: MadeHandOff }
  | { readonly state: 'failed'; readonly problem: ProblemAnswer; readonly last: MadeHandOff | undefined }
  | { readonly state: 'cancelled'; readonly last: MadeHandOff | undefined };

export interface MakingState {
  readonly making: Making;
  readonly again: () => void;
  readonly cancel: () => void;
}

/** Several changes in a row are made together. */
const REST_MS = 250;

/** Makes what leaves whenever what is chosen changes. @param places the exchanges that leave; all where it is undefined */
export function useMaking(
  captureId: string,
  choice: HandOffChoice | undefined,
  places: readonly number[] | undefined,
): MakingState {
  const [making, setMaking] = useState<Making>({ state: 'making', progress: undefined, last: undefined });
  const [round, setRound] = useState(0);
  const running = useRef<AbortController>(undefined);
  const placesKey = places?.join(' ');
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for the places, and a new round makes it again.
  useEffect(() => {
    if (choice === undefined) return undefined;
    const abort = new AbortController();
    running.current = abort;
    const { signal } = abort;
    setMaking(({ last }) => ({ state: 'making', progress: undefined, last }));
    const hear = (message: HandOffProgress): void => {
      if (signal.aborted) return;
      if (message.type === 'made') setMaking({ state: 'made', last: message.made });
      else if (message.type === 'failed')
        setMaking(({ last }) => ({ state: 'failed', problem: message.problem, last }));
      else setMaking(({ last }) => ({ state: 'making', progress: message, last }));
    };
    const timer = setTimeout(async () => {
      const order = { choice, ...(places === undefined ? {} : { places }) };
      const answer = await makeHandOff(captureId, order, hear, signal);
      if (!answer.ok && !signal.aborted) setMaking(({ last }) => ({ state: 'failed', problem: answer.problem, last }));
    }, REST_MS);
    return () => {
      clearTimeout(timer);
      abort.abort();
    };
  }, [captureId, choice, placesKey, round]);
  const again = useCallback(() => setRound((count) => count + 1), []);
  const cancel = useCallback(() => {
    running.current?.abort();
    setMaking(({ last }) => ({ state: 'cancelled', last }));
  }, []);
  return { making, again, cancel };
}
