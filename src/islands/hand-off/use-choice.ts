import { useCallback, useEffect, useRef, useState } from 'react';
import type { HandOffChoice } from '#core/redact';
import { tell } from '../state/notices';
import { type Fetched, useFetched } from '../ui/use-fetched';
import { fetchChoice, writeChoice } from './hand-off-api';

export interface ChoiceState {
  readonly fetched: Fetched<HandOffChoice>;
  readonly again: () => void;
  /** As it is now; undefined until it is there. */
  readonly choice: HandOffChoice | undefined;
  readonly change: (change: (choice: HandOffChoice) => HandOffChoice) => void;
  /** Takes the last change back; undefined where there is none. */
  readonly undo: (() => void) | undefined;
}

/** What leaves and what is inked out: kept on the server as it changes, every change with its undo. */
export function useChoice(captureId: string): ChoiceState {
  const fetchIt = useCallback(() => fetchChoice(captureId), [captureId]);
  const [fetched, again] = useFetched(fetchIt);
  const [past, setPast] = useState<readonly HandOffChoice[]>([]);
  useEffect(() => {
    if (fetched.state === 'there') setPast([fetched.value]);
  }, [fetched]);
  const written = useRef<Promise<unknown>>(Promise.resolve());
  const keep = useCallback(
    (choice: HandOffChoice): void => {
      // One write after the other: two at once could arrive in the wrong order.
      written.current = written.current.then(async () => {
        const answer = await writeChoice(captureId, choice);
        if (!answer.ok) tell(answer.problem.sentence, { detail: 'This choice lasts until you close this page.' });
      });
    },
    [captureId],
  );
  const choice = past.at(-1);
  const change = useCallback(
    (make: (choice: HandOffChoice) => HandOffChoice): void => {
      if (choice === undefined) return;
      const next = make(choice);
      setPast([...past, next]);
      keep(next);
    },
    [choice, past, keep],
  );
  const before = past.at(-2);
  const undo = useCallback((): void => {
    if (before === undefined) return;
    setPast(past.slice(0, -1));
    keep(before);
  }, [before, past, keep]);
  return { fetched, again, choice, change, undo: before === undefined ? undefined : undo };
}
