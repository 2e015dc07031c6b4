import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { type Draft, fillIn } from '#core/convert';
import { splitUrl } from '#core/http';
import {
  type KeptDraft,
  keptFrom,
  type SharedVariable,
  usedOn,
  variablesChange,
  withSheet,
  withVariables,
} from '#core/sheet';
import type { ProblemAnswer } from '#core/wire';
import { goTo } from '../state/address';
import { newId } from '../state/new-id';
import { tell } from '../state/notices';
import { OrderedWrites } from '../state/ordered-writes';
import { dropDraft, fetchDrafts, type KeptDrafts, keepDraft, keepVariables } from './draft-api';
import { DraftKeeper } from './draft-keeper';

export type Drafts =
  | { readonly state: 'loading' }
  | { readonly state: 'failed'; readonly problem: ProblemAnswer; readonly again: () => void }
  | {
      readonly state: 'there';
      readonly all: readonly KeptDraft[];
      readonly variables: readonly SharedVariable[];
      readonly add: (kept: KeptDraft) => void;
      readonly change: (id: string, change: (kept: KeptDraft) => KeptDraft) => void;
      /** Changes the variables of all drafts, and with them their sheets. Gives the way back. */
      readonly changeVariables: (
        change: (variables: readonly SharedVariable[]) => readonly SharedVariable[],
        sheetText?: (text: string) => string,
      ) => () => void;
      /** Until the variables are with the server, which takes their values from responses. */
      readonly settled: () => Promise<void>;
      /** Takes variables over that the server has changed and kept. */
      readonly takeOver: (variables: readonly SharedVariable[]) => void;
      /** A draft as it is now, also before it is drawn. */
      readonly get: (id: string) => KeptDraft | undefined;
      /** Adds a draft without going to it. */
      readonly addBehind: (kept: KeptDraft) => void;
      readonly drop: (kept: KeptDraft) => void;
    };

export type ThereDrafts = Extract<Drafts, { readonly state: 'there' }>;

/**
 * The drafts of a capture: fetched once, kept on the server as they change.
 * Long because all that changes drafts shares one list and one keeper.
 */
export function useDrafts(captureId: string): Drafts {
  const [there, setThere] = useState<KeptDrafts>();
  const [problem, setProblem] = useState<ProblemAnswer>();
  // Several may be added at once, before any of them is drawn.
  const current = useRef<KeptDrafts>({ drafts: [], variables: [] });
  /** The variables as the server was last known to have them. */
  const known = useRef<KeptDrafts['variables']>([]);
  const put = useCallback((next: KeptDrafts): void => {
    current.current = next;
    setThere(next);
  }, []);
  const load = useCallback(async () => {
    setProblem(undefined);
    const answer = await fetchDrafts(captureId);
    if (answer.ok) {
      known.current = answer.value.variables;
      put(answer.value);
    } else setProblem(answer.problem);
  }, [captureId, put]);
  useEffect(() => {
    load();
  }, [load]);
  const keeper = useMemo(() => keeperOf(captureId), [captureId]);
  const writes = useMemo(() => new OrderedWrites(), []);
  const writeVariables = useCallback(
    (variables: KeptDrafts['variables']) =>
      writes.put(captureId, async (isLeaving) => {
        const answer = await keepVariables(captureId, variablesChange(known.current, variables), isLeaving);
        if (!answer.ok) {
          const { sentence, advice } = answer.problem;
          tell(sentence, { detail: `The variables could not be saved. ${advice}` });
          return;
        }
        known.current = answer.value;
        // What another page set comes with it; what was changed here meanwhile is written next.
        const { drafts, variables: now } = current.current;
        if (now === variables)
          put({ drafts: drafts.map((kept) => withVariables(kept, answer.value)), variables: answer.value });
      }),
    [captureId, put, writes],
  );
  // Whoever leaves the view or the page leaves nothing behind.
  useEffect(() => {
    const leave = (): void => {
      keeper.leave();
      writes.leave();
    };
    addEventListener('pagehide', leave);
    return () => {
      removeEventListener('pagehide', leave);
      leave();
    };
  }, [keeper, writes]);
  const add = useCallback(
    (added: KeptDraft) => {
      const { drafts, variables } = current.current;
      const kept = { ...added, name: freeDraftName(added.name, drafts) };
      const fresh = kept.draft.variables.filter(({ name }) => !variables.some((one) => one.name === name));
      put({ drafts: [...drafts, kept], variables: [...variables, ...fresh] });
      if (fresh.length > 0) writeVariables(current.current.variables);
      keeper.keepNow(kept);
      goTo({ draft: kept.id });
    },
    [keeper, put, writeVariables],
  );
  if (problem !== undefined) return { state: 'failed', problem, again: load };
  if (there === undefined) return { state: 'loading' };
  const replace = (next: readonly KeptDraft[], variables: readonly SharedVariable[]): void => {
    const before = current.current.drafts;
    put({ drafts: next, variables });
    for (const kept of next) if (!before.includes(kept)) keeper.keepLater(kept);
  };
  return {
    state: 'there',
    all: there.drafts,
    variables: there.variables,
    add,
    change: (id, change) => {
      const { drafts, variables } = current.current;
      replace(
        drafts.map((kept) => (kept.id === id ? withVariables(change(kept), variables) : kept)),
        variables,
      );
    },
    changeVariables: (change, sheetText) => {
      const before = current.current;
      const after = changedDrafts(before, change(before.variables), sheetText);
      replace(after.drafts, after.variables);
      writeVariables(after.variables);
      return () => {
        const back = takenBack(before, after, current.current);
        replace(back.drafts, back.variables);
        writeVariables(back.variables);
      };
    },
    settled: () => writes.settled(),
    takeOver: (variables) => {
      known.current = variables;
      replace(
        current.current.drafts.map((kept) => withVariables(kept, variables)),
        variables,
      );
    },
    get: (id) => current.current.drafts.find((kept) => kept.id === id),
    addBehind: (added) => {
      const { drafts, variables } = current.current;
      const kept = { ...added, name: freeDraftName(added.name, drafts) };
      put({ drafts: [...drafts, kept], variables });
      keeper.keepNow(kept);
    },
    drop: (kept) => {
      const { drafts, variables } = current.current;
      put({ drafts: drafts.filter((one) => one.id !== kept.id), variables });
      goTo({ draft: undefined });
      keeper.drop(kept);
      tell(`"${kept.name}" deleted.`, { action: { label: 'Undo', run: () => add(kept) } });
    },
  };
}

/** The drafts with other variables, and with their sheets' texts changed where that is wanted. */
function changedDrafts(
  { drafts }: KeptDrafts,
  variables: readonly SharedVariable[],
  sheetText: ((text: string) => string) | undefined,
): KeptDrafts {
  const changed = drafts.map((kept) => {
    const text = sheetText === undefined ? kept.sheet.text : sheetText(kept.sheet.text);
    if (text === kept.sheet.text) return withVariables(kept, variables);
    const sheet = { ...kept.sheet, text };
    return withSheet(kept, sheet, usedOn(sheet, variables));
  });
  return { drafts: changed, variables };
}

/** What there is now with one change taken back: its variables, and the sheets that nobody has changed since. */
export function takenBack(before: KeptDrafts, after: KeptDrafts, now: KeptDrafts): KeptDrafts {
  const sheetOf = ({ drafts }: KeptDrafts, id: string) => drafts.find((kept) => kept.id === id)?.sheet;
  const gone = before.variables.filter(({ name }) => !now.variables.some((one) => one.name === name));
  const fresh = after.variables.filter(({ name }) => !before.variables.some((one) => one.name === name));
  const variables = [...now.variables.filter((one) => !fresh.some(({ name }) => name === one.name)), ...gone];
  const drafts = now.drafts.map((kept) => {
    const was = sheetOf(before, kept.id);
    const isUntouched = was !== undefined && kept.sheet.text === sheetOf(after, kept.id)?.text;
    return isUntouched ? withSheet(kept, was, usedOn(was, variables)) : withVariables(kept, variables);
  });
  return { drafts, variables };
}

const keeperOf = (captureId: string): DraftKeeper =>
  new DraftKeeper(
    {
      keep: (kept, isLeaving) => keepDraft(captureId, kept, isLeaving),
      drop: (id, isLeaving) => dropDraft(captureId, id, isLeaving),
    },
    ({ name }, { problem: { sentence, advice } }) =>
      tell(sentence, {
        detail: `The draft "${name}" could not be saved; your last changes exist only in this tab. ${advice}`,
      }),
  );

/** The name, with a number behind it where another draft of the capture has it already. */
export function freeDraftName(name: string, others: readonly KeptDraft[]): string {
  const taken = new Set(others.map((other) => other.name));
  for (let number = 1; ; number++) {
    const free = number === 1 ? name : `${name.slice(0, 190)}, ${number}`;
    if (!taken.has(free)) return free;
  }
}

/** What a draft of a captured request is called: what its path ends in, with the values that the capture had. */
export function capturedDraftName(draft: Draft, exchange: number): string {
  const path = (splitUrl(fillIn(draft).url) ?? { path: draft.url }).path;
  return `${draft.method} ${path.split('/').at(-1) || path || '/'} (#${exchange})`;
}

/** A draft with an id of its own. */
export const newDraft = (name: string, draft: Draft, exchange: number | undefined): KeptDraft =>
  keptFrom(newId(), name.trim().slice(0, 200) || 'no name', draft, exchange);
