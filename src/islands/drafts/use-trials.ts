import { useCallback, useEffect, useRef, useState } from 'react';
import type { KeptDraft } from '#core/sheet';
import type { ProblemAnswer, SendLeave, SendQuestion, Trial } from '#core/wire';
import { formatPlural } from '#core/wording';
import { tell } from '../state/notices';
import { changeTrial, fetchTrials, sendDraft } from './draft-api';
import { allow, leaveOf } from './send-leave';
import type { ThereDrafts } from './use-drafts';

export interface Trials {
  readonly all: readonly Trial[];
  readonly state: 'loading' | 'there' | 'failed';
  readonly problem: ProblemAnswer | undefined;
  /** When the sending began that is under way. */
  readonly sendingSince: number | undefined;
  /** Bytes of its body that have come. */
  readonly receivedBytes: number;
  /** What has to be allowed before anything is sent. */
  readonly question: SendQuestion | undefined;
  readonly send: (leave?: SendLeave) => void;
  readonly cancel: () => void;
  readonly dismiss: () => void;
  readonly again: () => void;
  /** Lists a trial that was sent from elsewhere, where it is this draft's. */
  readonly add: (draft: string, trial: Trial) => void;
  readonly note: (number: number, note: string) => void;
  readonly drop: (number: number) => void;
}

/**
 * The trials of a draft, and the way to another one.
 * Long because sending, its questions and its list are one state.
 */
export function useTrials(
  captureId: string,
  kept: KeptDraft,
  { takeOver, settled, get }: Pick<ThereDrafts, 'takeOver' | 'settled' | 'get'>,
): Trials {
  const { id } = kept;
  const [all, setAll] = useState<readonly Trial[]>([]);
  const [state, setState] = useState<Trials['state']>('loading');
  const [problem, setProblem] = useState<ProblemAnswer>();
  const [question, setQuestion] = useState<SendQuestion>();
  const [sendingSince, setSendingSince] = useState<number>();
  const [receivedBytes, setReceivedBytes] = useState(0);
  const control = useRef<AbortController>(undefined);
  const latest = useRef(kept);
  /** The draft as it was asked about. */
  const asked = useRef<KeptDraft>(undefined);
  latest.current = kept;
  const load = useCallback(async () => {
    setState('loading');
    const answer = await fetchTrials(captureId, id);
    if (latest.current.id !== id) return;
    if (answer.ok) setAll(answer.value);
    setProblem(answer.ok ? undefined : answer.problem);
    setState(answer.ok ? 'there' : 'failed');
  }, [captureId, id]);
  useEffect(() => {
    setAll([]);
    setQuestion(undefined);
    asked.current = undefined;
    load();
    return () => control.current?.abort();
  }, [load]);
  const add = (draft: string, trial: Trial): void => {
    if (latest.current.id !== draft) return;
    setState('there');
    setAll((before) => [trial, ...before.filter(({ number }) => number !== trial.number)]);
  };
  const send = async (given: SendLeave = {}): Promise<void> => {
    if (control.current !== undefined) return;
    const now = (): KeptDraft => get(id) ?? latest.current;
    // What is allowed is what was asked about, whatever has been written since.
    allow(asked.current ?? now(), given);
    asked.current = undefined;
    setQuestion(undefined);
    setSendingSince(performance.now());
    setReceivedBytes(0);
    const own = new AbortController();
    control.current = own;
    await settled();
    // As the sheet says now: what was drawn last may be behind it.
    const sent = now();
    const answer = await sendDraft(captureId, sent, leaveOf(sent), own.signal, setReceivedBytes);
    control.current = undefined;
    if (latest.current.id !== id) return;
    setSendingSince(undefined);
    if (own.signal.aborted) {
      tell('Cancelled. The server may have got the request all the same.');
      void load();
    } else if (!answer.ok) tell(answer.problem.sentence, { detail: answer.problem.advice });
    else if (answer.value.type === 'question') {
      asked.current = sent;
      setQuestion(answer.value.question);
    } else {
      const { trial, dropped, variables, missing } = answer.value;
      if (variables !== undefined) takeOver(variables);
      if (missing.length > 0) tell(`The response has no value for ${missing.join(', ')}, which is taken from it.`);
      add(id, trial);
      if (dropped > 0) {
        tell(`${formatPlural(dropped, 'old trial')} deleted: 100 trials, or 200 MB of them, are kept of a draft.`);
        void load();
      }
    }
  };
  const change = async (number: number, what: Parameters<typeof changeTrial>[3]): Promise<void> => {
    const answer = await changeTrial(captureId, id, number, what);
    if (!answer.ok) tell(answer.problem.sentence, { detail: answer.problem.advice });
    await load();
  };
  return {
    all,
    state,
    problem,
    sendingSince,
    receivedBytes,
    question,
    send: (leave) => void send(leave),
    cancel: () => control.current?.abort(),
    dismiss: () => setQuestion(undefined),
    again: () => void load(),
    add,
    note: (number, note) => void change(number, { note }),
    drop: (number) => {
      setAll((before) => before.filter((one) => one.number !== number));
      void change(number, { deleted: true });
      tell(`Trial ${number} deleted.`, {
        action: { label: 'Undo', run: () => void change(number, { deleted: false }) },
      });
    },
  };
}
