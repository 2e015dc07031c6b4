import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { ChangeError, readChanges, writeChange } from '#core/rehearse';
import type { ResponseVariant } from '#core/wire';
import { newId } from '../state/new-id';
import { tell } from '../state/notices';
import { OrderedWrites } from '../state/ordered-writes';
import { fetchVariants, writeVariants } from './rehearsal-api';

/** Changed responses as they are edited: a line for each change. */
export interface EditedVariant {
  readonly id: string;
  readonly name: string;
  readonly text: string;
}

export interface Variants {
  readonly all: readonly EditedVariant[];
  /** Those that the next rehearsal gives; absent where nothing is changed. */
  readonly chosen: EditedVariant | undefined;
  readonly choose: (id: string | undefined) => void;
  readonly add: (line?: string) => void;
  readonly change: (change: Partial<Pick<EditedVariant, 'name' | 'text'>>) => void;
  readonly drop: () => void;
}

type VariantsChange = (all: readonly EditedVariant[]) => readonly EditedVariant[];

/** What is typed is kept once it rests. */
const REST_MS = 500;

const editedOf = ({ id, name, changes }: ResponseVariant): EditedVariant => ({
  id,
  name,
  text: changes.flatMap(writeChange).join('\n'),
});

/** The changed responses that are kept with a capture. What cannot be read stays as it is typed, and is not kept. */
export function useVariants(captureId: string): Variants {
  const [all, setAll] = useState<readonly EditedVariant[]>([]);
  const [chosenId, choose] = useState<string>();
  const writeLater = useWriting(captureId);
  // As they are by then: an undo comes when others may have been changed.
  const now = useRef(all);
  now.current = all;
  /** What was changed before those that are kept were there: it is changed of them then. Undefined once they are. */
  const early = useRef<VariantsChange[] | undefined>([]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the writing of a capture is the same as long as the capture is.
  useEffect(() => {
    let isCurrent = true;
    early.current = [];
    fetchVariants(captureId).then((answer) => {
      if (!isCurrent) return;
      if (!answer.ok) {
        // What was never read is not written over.
        tell(answer.problem.sentence, { detail: answer.problem.advice });
        return;
      }
      const changes = early.current ?? [];
      early.current = undefined;
      const kept: readonly EditedVariant[] = answer.value.map(editedOf);
      now.current = changes.reduce<readonly EditedVariant[]>((before, change) => change(before), kept);
      setAll(now.current);
      if (changes.length > 0) writeLater(now.current);
    });
    return () => {
      isCurrent = false;
    };
  }, [captureId]);
  const keep = (change: VariantsChange): void => {
    now.current = change(now.current);
    setAll(now.current);
    if (early.current === undefined) writeLater(now.current);
    else early.current.push(change);
  };
  const chosen = all.find(({ id }) => id === chosenId);
  return {
    all,
    chosen,
    choose,
    add: (line = '') => {
      const made: EditedVariant = { id: newId(), name: `Changes ${all.length + 1}`, text: line };
      keep((before) => [...before, made]);
      choose(made.id);
    },
    change: (change) => keep((before) => before.map((one) => (one.id === chosenId ? { ...one, ...change } : one))),
    drop: () => {
      if (chosen === undefined) return;
      const at = all.indexOf(chosen);
      keep((before) => before.filter(({ id }) => id !== chosen.id));
      choose(undefined);
      tell('Deleted.', { action: { label: 'Undo', run: () => keep((before) => before.toSpliced(at, 0, chosen)) } });
    },
  };
}

/** Writes what is typed once it rests; gives the way to have something written. */
function useWriting(captureId: string): (next: readonly EditedVariant[]) => void {
  const pending = useRef<{ readonly timer: ReturnType<typeof setTimeout>; readonly next: readonly EditedVariant[] }>(
    undefined,
  );
  // One write after the other: none overtakes another.
  const writes = useMemo(() => new OrderedWrites(), []);
  const writing = useCallback(
    (next: readonly EditedVariant[]) => async (isLeaving: boolean) => {
      const answer = await writeVariants(captureId, next.flatMap(readable), isLeaving);
      if (!answer.ok) tell(answer.problem.sentence, { detail: answer.problem.advice });
    },
    [captureId],
  );
  const take = useCallback((): readonly EditedVariant[] | undefined => {
    const waiting = pending.current;
    clearTimeout(waiting?.timer);
    pending.current = undefined;
    return waiting?.next;
  }, []);
  // Whoever leaves the view or the page before the typing rested leaves nothing behind.
  useEffect(() => {
    const leave = (): void => {
      const next = take();
      writes.leave(next === undefined ? [] : [[captureId, writing(next)]]);
    };
    addEventListener('pagehide', leave);
    return () => {
      removeEventListener('pagehide', leave);
      leave();
    };
  }, [captureId, take, writes, writing]);
  return (next) => {
    take();
    const write = (): void => {
      take();
      writes.put(captureId, writing(next));
    };
    pending.current = { next, timer: setTimeout(write, REST_MS) };
  };
}

function readable({ id, name, text }: EditedVariant): ResponseVariant[] {
  if (name.trim() === '') return [];
  try {
    return [{ id, name: name.trim(), changes: readChanges(text) }];
  } catch (error) {
    if (error instanceof ChangeError) return [];
    throw error;
  }
}
