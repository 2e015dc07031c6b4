import { useCallback, useEffect, useMemo, useState } from 'react';
import type { HandOffChoice } from '#core/redact';
import { tell } from '../state/notices';
import { OrderedWrites } from '../state/ordered-writes';
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
  const writes = useMemo(() => new OrderedWrites(), []);
  const keep = useCallback(
    (choice: HandOffChoice): void =>
      writes.put(captureId, async (isLeaving) => {
        const answer = await writeChoice(captureId, choice, isLeaving);
        if (!answer.ok) tell(answer.problem.sentence, { detail: 'This choice lasts until you close this page.' });
      }),
    [captureId, writes],
  );
  useEffect(() => {
    const leave = (): void => writes.leave();
    addEventListener('pagehide', leave);
    return () => removeEventListener('pagehide', leave);
  }, [writes]);
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
