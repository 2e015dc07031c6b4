import { useCallback, useEffect, useRef, useState } from 'react';
import type { KeptDraft } from '#core/sheet';
import type { ProblemAnswer, Run, RunOrder, RunStep, SendLeave, SendQuestion } from '#core/wire';
import { allow, leaveOf } from '../drafts/send-leave';
import type { ThereDrafts } from '../drafts/use-drafts';
import { tell } from '../state/notices';
import { beginRun, changeRun, fetchRun, fetchRuns } from './runs-api';

/** While a run goes on it is looked at so often. */
const LOOK_MS = 400;
/** Of a server that is away it is asked less often. */
const AWAY_MS = 3000;

export interface Runs {
  readonly all: readonly Run[];
  readonly state: 'loading' | 'there' | 'failed';
  readonly problem: ProblemAnswer | undefined;
  /** The run that is looked at, and its steps so far. */
  readonly current: Run | undefined;
  readonly steps: readonly RunStep[];
  /** What has to be allowed before a run is begun, and the run. */
  readonly question: { readonly asked: SendQuestion; readonly order: RunOrder } | undefined;
  readonly begin: (order: RunOrder, leave?: SendLeave) => void;
  /** Paused, once the response under way is there. */
  readonly isPausing: boolean;
  readonly dismiss: () => void;
  readonly choose: (id: string) => void;
  readonly pause: () => void;
  readonly goOn: () => void;
  readonly drop: () => void;
  readonly again: () => void;
}

/**
 * The runs of a draft, and the one that is looked at, as it goes on.
 * Long because beginning one, its question, and following it are one state.
 */
export function useRuns(
  captureId: string,
  kept: KeptDraft,
  { settled, get }: Pick<ThereDrafts, 'settled' | 'get'>,
): Runs {
  const { id } = kept;
  const [all, setAll] = useState<readonly Run[]>([]);
  const [state, setState] = useState<Runs['state']>('loading');
  const [problem, setProblem] = useState<ProblemAnswer>();
  const [chosen, setChosen] = useState<string>();
  const [seen, setSeen] = useState<{ readonly of: string; readonly steps: readonly RunStep[] }>();
  const [question, setQuestion] = useState<Runs['question']>();
  const [pausing, setPausing] = useState<string>();
  const latest = useRef(kept);
  /** The draft as it was asked about. */
  const asked = useRef<KeptDraft>(undefined);
  latest.current = kept;
  const load = useCallback(async () => {
    const answer = await fetchRuns(captureId, id);
    if (latest.current.id !== id) return;
    if (answer.ok) setAll(answer.value);
    setProblem(answer.ok ? undefined : answer.problem);
    setState(answer.ok ? 'there' : 'failed');
  }, [captureId, id]);
  useEffect(() => {
    asked.current = undefined;
    void load();
  }, [load]);
  const current = all.find((run) => run.id === chosen) ?? all[0];
  const put = useCallback((run: Run) => setAll((before) => before.map((one) => (one.id === run.id ? run : one))), []);
  useFollowed(captureId, current, setSeen, put, setProblem);
  const begin = async (order: RunOrder, given: SendLeave = {}): Promise<void> => {
    const now = (): KeptDraft => get(id) ?? latest.current;
    // What is allowed is what was asked about, whatever has been written since.
    allow(asked.current ?? now(), given);
    asked.current = undefined;
    setQuestion(undefined);
    await settled();
    // As the sheet says now: what was drawn last may be behind it.
    const begun = now();
    const answer = await beginRun(captureId, begun, order, leaveOf(begun));
    if (latest.current.id !== id) return;
    if (!answer.ok) tell(answer.problem.sentence, { detail: answer.problem.advice });
    else if (answer.value.type === 'question') {
      asked.current = begun;
      setQuestion({ asked: answer.value.question, order });
    } else {
      const { run } = answer.value;
      setAll((before) => [run, ...before]);
      setChosen(run.id);
    }
  };
  const change = async (run: Run, what: Parameters<typeof changeRun>[2]): Promise<void> => {
    const answer = await changeRun(captureId, run, what);
    if (!answer.ok) tell(answer.problem.sentence, { detail: answer.problem.advice });
    await load();
  };
  return {
    all,
    state,
    problem,
    current,
    steps: seen !== undefined && seen.of === current?.id ? seen.steps : [],
    question,
    begin: (order, leave) => void begin(order, leave),
    dismiss: () => setQuestion(undefined),
    choose: setChosen,
    isPausing: current?.status === 'running' && pausing === current.id,
    pause: () => {
      if (current === undefined) return;
      setPausing(current.id);
      void change(current, { does: 'pause' });
    },
    goOn: () => {
      if (current === undefined) return;
      setPausing(undefined);
      void change(current, { does: 'go-on' });
    },
    drop: () => {
      if (current === undefined) return;
      setAll((before) => before.filter((one) => one.id !== current.id));
      void change(current, { deleted: true });
      tell('Deleted, with what it sent.', {
        action: { label: 'Undo', run: () => void change(current, { deleted: false }) },
      });
    },
    again: () => void load(),
  };
}

/** Reads a run's steps, and follows it for as long as it goes on. */
function useFollowed(
  captureId: string,
  run: Run | undefined,
  setSeen: (seen: { readonly of: string; readonly steps: readonly RunStep[] }) => void,
  put: (run: Run) => void,
  tellProblem: (problem: ProblemAnswer | undefined) => void,
): void {
  const isOn = run?.status === 'running';
  const of = run?.id;
  const latest = useRef(run);
  latest.current = run;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a run that goes on again is followed again.
  useEffect(() => {
    if (of === undefined) return undefined;
    let isCurrent = true;
    let steps: readonly RunStep[] = [];
    const look = async (): Promise<void> => {
      const asked = latest.current;
      if (!isCurrent || asked === undefined) return;
      const answer = await fetchRun(captureId, asked, steps.at(-1)?.number ?? 0);
      if (!isCurrent) return;
      tellProblem(answer.ok ? undefined : answer.problem);
      const came = answer.ok ? answer.value.steps : [];
      if (came.length > 0 || steps.length === 0) {
        steps = [...steps, ...came];
        setSeen({ of, steps });
      }
      if (answer.ok) put(answer.value.run);
      // More steps than are handed over at once, or a run that goes on.
      const isMore = answer.ok && (answer.value.run.status === 'running' || answer.value.run.sends > steps.length);
      if (isMore || !answer.ok) timer = setTimeout(look, !answer.ok ? AWAY_MS : came.length >= MANY ? 0 : LOOK_MS);
    };
    let timer = setTimeout(look, 0);
    return () => {
      isCurrent = false;
      clearTimeout(timer);
    };
  }, [captureId, of, isOn, put, setSeen, tellProblem]);
}

/** As many steps as come at once have more behind them. */
const MANY = 1000;
