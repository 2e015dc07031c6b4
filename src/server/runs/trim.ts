import { findResponse } from '#core/model';
import type { HeldResponse } from '#core/trial';
import {
  clientAgentOf,
  type Found,
  type Part,
  partName,
  type TrimHeard,
  tellReason,
  trimDraft,
  withoutParts,
} from '#core/trim';
import type { RunOrder, RunResult, TrimResult } from '#core/wire';
import { formatPlural } from '#core/wording';
import { heldOf } from '../send/held';
import type { RunContext } from './context';
import { type Heard, RunStopped, stepOf } from './sender';

/** Between two trials. */
const PAUSE_MS = 250;

/**
 * Finds which parts of the draft are needed. One that is gone on with asks the same questions again: what was answered by then
 * is read, not sent.
 */
export async function runTrim(context: RunContext, order: Extract<RunOrder, { kind: 'trim' }>): Promise<void> {
  const { kept, captured, sender } = context;
  const response = captured === undefined ? undefined : findResponse(captured);
  const own = kept.draft.headers.find(({ name, kept: isKept }) => isKept && name.toLowerCase() === 'user-agent');
  let heard: Heard | undefined;
  let known: RunResult = context.result;
  let isStopped = false;
  let writing: Promise<void> = Promise.resolve();
  const outcome = await trimDraft({
    kept,
    captured: response === undefined ? undefined : heldOf(response, kept.draft.method),
    measure: order.measure,
    clientAgent: order.target === undefined ? undefined : clientAgentOf(order.target, own?.value),
    mostSends: order.mostSends,
    isStopped: () => isStopped,
    ask: async (step): Promise<TrimHeard> => {
      await writing;
      heard = undefined;
      if (step.number <= context.sent) {
        return heardOf(context.stored(step.number), 'no response');
      }
      try {
        if (step.number > 1) await sender.rest(PAUSE_MS);
        heard = await sender.send(step.draft, step.sheet);
      } catch (error) {
        if (!(error instanceof RunStopped)) throw error;
        isStopped = true;
        return { type: 'none', sentence: '' };
      }
      return heardOf(heard.response?.held, heard.remark);
    },
    onReply: (step, sentence, isSame, found) => {
      known = { trim: resultOf(kept, found) };
      if (heard === undefined) return;
      const verdict = heard.response === undefined ? 'none' : isSame ? 'good' : 'other';
      const told = `${step.number} sent, ${formatPlural(found.leftOut.length, 'part')} can be left out by now.`;
      writing = context.keep(heard, stepOf(heard, { label: step.label, sentence, verdict }), known, told);
    },
  });
  await writing;
  if (outcome.type === 'found') known = { trim: resultOf(kept, outcome.found) };
  await context.know(outcome.type === 'other' ? { asksMeasure: true } : known, outcome.sentence);
  // What is known by then is told; it can be gone on with.
  if (isStopped) throw new RunStopped();
}

/** What a response is to a trim: one that puts off until later, in spite of waiting, answers nothing. */
function heardOf(response: HeldResponse | undefined, remark: string): TrimHeard {
  if (response === undefined) return { type: 'none', sentence: remark };
  const { status } = response;
  return status === 429 || status === 503 ? { type: 'busy', status } : { type: 'response', response };
}

function resultOf({ sheet }: RunContext['kept'], found: Found<Part>): TrimResult {
  return {
    text: withoutParts(sheet, found.leftOut).text,
    needed:
      found.isProven || found.needed.some(({ reason }) => reason !== undefined)
        ? found.needed.map((one) => ({ key: one.part.key, name: partName(one.part), reason: tellReason(one) }))
        : [],
    leftOut: found.leftOut.map(partName),
    isProven: found.isProven,
  };
}
