import { useRef, useState } from 'react';
import type { KeptDraft } from '#core/sheet';
import type { SendQuestion, Trial } from '#core/wire';
import { tell } from '../state/notices';
import { sendDraft } from './draft-api';
import { allow, leaveOf } from './send-leave';
import type { ThereDrafts } from './use-drafts';

/** How a draft of a sequence ended. */
export interface SequenceStepResult {
  readonly id: string;
  readonly trial?: Trial;
  /** Why the sequence stopped here. */
  readonly stopped?: string;
  readonly question?: SendQuestion;
  /** The draft as it was asked about. */
  readonly asked?: KeptDraft;
}

export interface SequenceRun {
  readonly results: readonly SequenceStepResult[];
  /** The draft that is on its way. */
  readonly sending: string | undefined;
  /** Sends drafts one after the other; stops where one fails. */
  readonly run: (ids: readonly string[]) => void;
  /** Allows what is asked and goes on from there. */
  readonly goOn: () => void;
  readonly cancel: () => void;
}

/** Sends several drafts in order, each with the values that the responses before it gave. @param onTrial hears of each as it comes */
export function useSequence(
  captureId: string,
  drafts: ThereDrafts,
  onTrial: (draft: string, trial: Trial) => void,
): SequenceRun {
  const [results, setResults] = useState<readonly SequenceStepResult[]>([]);
  const [sending, setSending] = useState<string>();
  const control = useRef<AbortController>(undefined);
  const left = useRef<readonly string[]>([]);
  const go = async (ids: readonly string[]): Promise<void> => {
    const own = new AbortController();
    control.current = own;
    await drafts.settled();
    for (const [at, id] of ids.entries()) {
      // The values of those before are in it by now.
      const kept = drafts.get(id);
      if (kept === undefined) continue;
      setSending(id);
      const result = await sendStep(captureId, kept, own.signal, drafts.takeOver);
      setResults((before) => [...before.filter((one) => one.id !== id), result]);
      if (result.trial !== undefined) onTrial(id, result.trial);
      left.current = ids.slice(at);
      if (result.stopped !== undefined) break;
    }
    setSending(undefined);
    control.current = undefined;
  };
  return {
    results,
    sending,
    run: (ids) => {
      if (control.current !== undefined) return;
      setResults([]);
      void go(ids);
    },
    goOn: () => {
      const [id] = left.current;
      const { question, asked } = results.find((one) => one.id === id) ?? {};
      if (asked === undefined || question === undefined) return;
      allow(asked, question.about === 'unsafe' ? { unsafe: true } : { private: true });
      void go(left.current);
    },
    cancel: () => control.current?.abort(),
  };
}

async function sendStep(
  captureId: string,
  kept: KeptDraft,
  signal: AbortSignal,
  takeOver: (variables: KeptDraft['draft']['variables']) => void,
): Promise<SequenceStepResult> {
  const { id } = kept;
  const answer = await sendDraft(captureId, kept, leaveOf(kept), signal);
  if (signal.aborted) return { id, stopped: 'Cancelled.' };
  if (!answer.ok) {
    tell(answer.problem.sentence, { detail: answer.problem.advice });
    return { id, stopped: answer.problem.sentence };
  }
  if (answer.value.type === 'question') {
    const { question } = answer.value;
    return { id, stopped: question.sentence, question, asked: kept };
  }
  const { trial, variables, missing } = answer.value;
  if (variables !== undefined) takeOver(variables);
  if (trial.row.failure !== undefined) return { id, trial, stopped: trial.sentence };
  if (missing.length > 0)
    return { id, trial, stopped: `The response has no value for ${missing.join(', ')}, which is taken from it.` };
  return { id, trial };
}
