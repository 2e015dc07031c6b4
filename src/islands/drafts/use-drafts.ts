import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Draft, KeptDraft } from '#core/convert';
import type { ProblemAnswer } from '#core/wire';
import { goTo } from '../state/address';
import { newId } from '../state/new-id';
import { tell } from '../state/notices';
import { dropDraft, fetchDrafts, keepDraft } from './draft-api';
import { DraftKeeper } from './draft-keeper';

export type Drafts =
  | { readonly state: 'loading' }
  | { readonly state: 'failed'; readonly problem: ProblemAnswer; readonly again: () => void }
  | {
      readonly state: 'there';
      readonly all: readonly KeptDraft[];
      readonly add: (kept: KeptDraft) => void;
      /** Changes a draft; what was before can be had back by undo. */
      readonly change: (id: string, change: (kept: KeptDraft) => KeptDraft) => void;
      readonly drop: (kept: KeptDraft) => void;
      readonly undo: (id: string) => void;
      readonly canUndo: (id: string) => boolean;
    };

const MOST_UNDONE = 200;

/**
 * The drafts of a capture: fetched once, kept on the server as they change, each with its undo.
 * Long because all that changes drafts shares one list, one keeper and one way back.
 */
export function useDrafts(captureId: string): Drafts {
  const [all, setAll] = useState<readonly KeptDraft[]>();
  const [problem, setProblem] = useState<ProblemAnswer>();
  const [undone, setUndone] = useState<ReadonlyMap<string, readonly KeptDraft[]>>(new Map());
  // Several may be added at once, before any of them is drawn.
  const current = useRef<readonly KeptDraft[]>([]);
  current.current = all ?? [];
  const load = useCallback(async () => {
    setProblem(undefined);
    const answer = await fetchDrafts(captureId);
    if (answer.ok) setAll(answer.value);
    else setProblem(answer.problem);
  }, [captureId]);
  useEffect(() => {
    load();
  }, [load]);
  const keeper = useMemo(
    () =>
      new DraftKeeper(
        { keep: (kept, isLeaving) => keepDraft(captureId, kept, isLeaving), drop: (id) => dropDraft(captureId, id) },
        ({ name }, { problem: { sentence, advice } }) =>
          tell(sentence, {
            detail: `The draft "${name}" could not be saved; your last changes exist only in this tab. ${advice}`,
          }),
      ),
    [captureId],
  );
  // Whoever leaves the view or the page leaves nothing behind.
  useEffect(() => {
    const leave = (): void => keeper.leave();
    addEventListener('pagehide', leave);
    return () => {
      removeEventListener('pagehide', leave);
      leave();
    };
  }, [keeper]);
  const add = useCallback(
    (added: KeptDraft) => {
      const kept = { ...added, name: freeDraftName(added.name, current.current) };
      current.current = [...current.current, kept];
      setAll((before = []) => [...before, kept]);
      keeper.keepNow(kept);
      goTo({ draft: kept.id });
    },
    [keeper],
  );
  const put = useCallback(
    (kept: KeptDraft) => {
      setAll((before = []) => before.map((one) => (one.id === kept.id ? kept : one)));
      keeper.keepLater(kept);
    },
    [keeper],
  );
  if (problem !== undefined) return { state: 'failed', problem, again: load };
  if (all === undefined) return { state: 'loading' };
  return {
    state: 'there',
    all,
    add,
    change: (id, change) => {
      const before = all.find((one) => one.id === id);
      if (before === undefined) return;
      const after = change(before);
      if (after === before) return;
      setUndone((known) => new Map(known).set(id, [...(known.get(id) ?? []).slice(-MOST_UNDONE), before]));
      put(after);
    },
    undo: (id) => {
      const steps = undone.get(id) ?? [];
      const last = steps.at(-1);
      if (last === undefined) return;
      setUndone((known) => new Map(known).set(id, steps.slice(0, -1)));
      put(last);
    },
    canUndo: (id) => (undone.get(id) ?? []).length > 0,
    drop: (kept) => {
      setAll(all.filter((one) => one.id !== kept.id));
      goTo({ draft: undefined });
      keeper.drop(kept);
      tell(`"${kept.name}" deleted.`, { action: { label: 'Undo', run: () => add(kept) } });
    },
  };
}

/** The name, with a number behind it where another draft of the capture has it already. */
export function freeDraftName(name: string, others: readonly KeptDraft[]): string {
  const taken = new Set(others.map((other) => other.name));
  for (let number = 1; ; number++) {
    const free = number === 1 ? name : `${name.slice(0, 190)}, ${number}`;
    if (!taken.has(free)) return free;
  }
}

/** A draft with an id of its own. */
export const newDraft = (name: string, draft: Draft, exchange: number | undefined): KeptDraft => ({
  id: newId(),
  name: name.trim().slice(0, 200) || 'no name',
  exchange,
  draft,
  spareQuery: [],
});
