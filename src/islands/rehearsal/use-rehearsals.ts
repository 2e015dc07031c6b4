import { useCallback, useEffect, useState } from 'react';
import type { AskedExchange, ProblemAnswer, Rehearsal, RehearsalOrder } from '#core/wire';
import { tell } from '../state/notices';
import { beginRehearsal, changeRehearsal, fetchRehearsal, fetchRehearsals } from './rehearsal-api';

/** While a rehearsal runs it is looked at so often. */
const LOOK_MS = 500;
/** Of a server that is away it is asked less often. */
const AWAY_MS = 3000;
/** As many as come at once have more behind them. */
const MANY = 500;

export interface Rehearsals {
  readonly state: 'loading' | 'there' | 'failed';
  readonly problem: ProblemAnswer | undefined;
  readonly all: readonly Rehearsal[];
  /** The one that is looked at, and what it was asked so far. */
  readonly current: Rehearsal | undefined;
  readonly asked: readonly AskedExchange[];
  readonly isBeginning: boolean;
  readonly begin: (order: RehearsalOrder) => void;
  readonly stop: () => void;
  readonly rewind: () => void;
  readonly drop: () => void;
  readonly again: () => void;
}

/**
 * The rehearsals of a capture, and the one that is looked at, as it is asked.
 * Long because beginning, following and ending one are one state.
 */
export function useRehearsals(
  captureId: string,
  chosen: string | undefined,
  choose: (id: string | undefined) => void,
): Rehearsals {
  const [all, setAll] = useState<readonly Rehearsal[]>([]);
  const [state, setState] = useState<Rehearsals['state']>('loading');
  const [problem, setProblem] = useState<ProblemAnswer>();
  const [isBeginning, setBeginning] = useState(false);
  const load = useCallback(async () => {
    const answer = await fetchRehearsals(captureId);
    if (answer.ok) setAll(answer.value);
    setProblem(answer.ok ? undefined : answer.problem);
    // What is there stays, and is told to be from before.
    setState((before) => (answer.ok || before === 'there' ? 'there' : 'failed'));
  }, [captureId]);
  useEffect(() => {
    void load();
  }, [load]);
  const current = all.find(({ id }) => id === chosen) ?? all[0];
  const put = useCallback(
    (one: Rehearsal) => setAll((before) => before.map((other) => (other.id === one.id ? one : other))),
    [],
  );
  const asked = useFollowed(current, put, setProblem);
  const begin = async (order: RehearsalOrder): Promise<void> => {
    setBeginning(true);
    const answer = await beginRehearsal(captureId, order);
    setBeginning(false);
    if (!answer.ok) {
      tell(answer.problem.sentence, { detail: answer.problem.advice });
      return;
    }
    setAll((before) => [answer.value, ...before]);
    choose(answer.value.id);
  };
  const change = async (
    of: Rehearsal,
    what: Parameters<typeof changeRehearsal>[1],
    tellDone: () => void = () => undefined,
  ): Promise<void> => {
    const answer = await changeRehearsal(of, what);
    if (answer.ok) tellDone();
    else tell(answer.problem.sentence, { detail: answer.problem.advice });
    await load();
  };
  return {
    state,
    problem,
    all,
    current,
    asked,
    isBeginning,
    begin: (order) => void begin(order),
    stop: () => current !== undefined && void change(current, { does: 'stop' }),
    rewind: () => {
      if (current === undefined) return;
      void change(current, { does: 'rewind' }, () => tell('Of responses that fit alike, the first is given next.'));
    },
    drop: () => {
      if (current === undefined) return;
      void change(current, { deleted: true }, () => {
        setAll((before) => before.filter(({ id }) => id !== current.id));
        choose(undefined);
        tell('Stopped and deleted, with what it was asked.', {
          action: { label: 'Undo', run: () => void change(current, { deleted: false }) },
        });
      });
    },
    again: () => void load(),
  };
}

/** What a rehearsal was asked, followed for as long as it runs. */
function useFollowed(
  rehearsal: Rehearsal | undefined,
  put: (rehearsal: Rehearsal) => void,
  tellProblem: (problem: ProblemAnswer | undefined) => void,
): readonly AskedExchange[] {
  const [seen, setSeen] = useState<{ readonly of: string; readonly asked: readonly AskedExchange[] }>();
  const of = rehearsal?.id;
  const isOn = rehearsal?.status === 'running';
  // biome-ignore lint/correctness/useExhaustiveDependencies: which one it is, and whether it runs, is all that counts.
  useEffect(() => {
    if (rehearsal === undefined) return undefined;
    let isCurrent = true;
    let asked: readonly AskedExchange[] = [];
    const look = async (): Promise<void> => {
      const answer = await fetchRehearsal(rehearsal, asked.at(-1)?.number ?? 0);
      if (!isCurrent) return;
      tellProblem(answer.ok ? undefined : answer.problem);
      if (!answer.ok) {
        timer = setTimeout(look, AWAY_MS);
        return;
      }
      const came = answer.value.asked;
      if (came.length > 0) asked = [...asked, ...came];
      setSeen((before) => (before?.of === rehearsal.id && came.length === 0 ? before : { of: rehearsal.id, asked }));
      put(answer.value.rehearsal);
      const isMore = came.length >= MANY;
      if (isMore || answer.value.rehearsal.status === 'running') timer = setTimeout(look, isMore ? 0 : LOOK_MS);
    };
    let timer = setTimeout(look, 0);
    return () => {
      isCurrent = false;
      clearTimeout(timer);
    };
  }, [of, isOn, put, tellProblem]);
  return seen !== undefined && seen.of === of ? seen.asked : [];
}
