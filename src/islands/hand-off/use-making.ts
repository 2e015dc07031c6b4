import { useMemo, useRef } from 'react';
import type { HandOffChoice } from '#core/redact';
import type { HandOffProgress, MadeHandOff } from '#core/wire';
import { type Make, type StreamedState, useStreamed } from '../ui/use-streamed';
import { makeHandOff } from './hand-off-api';

type Progress = Extract<HandOffProgress, { type: 'progress' }>;

export interface MakingState extends StreamedState<Progress, MadeHandOff> {
  /** What was made last, which is looked at further while another is made. */
  readonly last: MadeHandOff | undefined;
}

/** Several changes in a row are made together. */
const REST_MS = 250;

/**
 * Makes what leaves whenever what is chosen changes.
 * @param choice undefined where nothing would leave
 * @param places the exchanges that leave; all where it is undefined
 */
export function useMaking(
  captureId: string,
  choice: HandOffChoice | undefined,
  places: readonly number[] | undefined,
): MakingState {
  const placesKey = places?.join(' ');
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for the places.
  const make = useMemo((): Make<Progress, MadeHandOff> | undefined => {
    if (choice === undefined) return undefined;
    const order = { choice, ...(places === undefined ? {} : { places }) };
    return (tell, signal) =>
      makeHandOff(
        captureId,
        order,
        (message) => {
          if (message.type === 'made') tell({ state: 'made', value: message.made });
          else if (message.type === 'failed') tell({ state: 'failed', problem: message.problem });
          else tell({ state: 'making', progress: message });
        },
        signal,
      );
  }, [captureId, choice, placesKey]);
  const state = useStreamed(make, REST_MS);
  const last = useRef<MadeHandOff>(undefined);
  if (state.streamed.state === 'made') last.current = state.streamed.value;
  return { ...state, last: last.current };
}
