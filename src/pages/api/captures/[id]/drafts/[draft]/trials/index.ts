import type { APIRoute } from 'astro';
import { unpackKept } from '#core/sheet';
import type { TrialProgress } from '#core/wire';
import { answer, json, problemOf } from '#server/answer';
import { listTrials } from '#server/db/trials';
import { guardSending } from '#server/guard';
import { getCapture } from '#server/known-capture';
import { LINES, streamLines } from '#server/lines';
import { ServerProblem } from '#server/problem';
import { DRAFT_LIMIT_BYTES, readJson } from '#server/read-json';
import { type TrialOrder, tryDraft } from '#server/send/trial';
import { getTrazado } from '#server/trazado';
import { draftParams, trialOrder, validate } from '#server/validate';

/** The trials of a draft, the newest first. */
export const GET: APIRoute = ({ request, params }) =>
  answer(() => {
    getCapture(params);
    const { draft } = validate(draftParams, params);
    return json(request, listTrials(getTrazado().connection, draft));
  });

/** Sends a draft once, as it is handed over. Whoever takes lines hears meanwhile how much has come. */
export const POST: APIRoute = ({ request, params }) =>
  answer(async () => {
    guardSending(request);
    const { id } = getCapture(params);
    const { draft } = validate(draftParams, params);
    const { kept, leave } = await readJson(request, trialOrder, DRAFT_LIMIT_BYTES);
    if (kept.id !== draft)
      throw new ServerProblem('invalid-input', 'The draft is of another address.', 'Send it to its own.');
    const order = { captureId: id, kept: unpackKept(kept), leave, signal: request.signal };
    if (request.headers.get('accept') === LINES) return inLines(order);
    return json(request, await tried(order));
  });

/** More messages a second nobody reads. */
const TOLD_EVERY_MS = 200;

const tried = (order: TrialOrder): ReturnType<typeof tryDraft> => {
  const trazado = getTrazado();
  return tryDraft(trazado.connection, (run) => trazado.write(run), order);
};

/** A trial as lines of JSON, each a TrialProgress; whoever stops listening stops the trial. */
function inLines(order: TrialOrder): Response {
  const left = new AbortController();
  const signal = AbortSignal.any([order.signal, left.signal]);
  return streamLines<TrialProgress>(
    (tell) => {
      let toldAt = 0;
      const onBytes = (receivedBytes: number): void => {
        if (performance.now() - toldAt < TOLD_EVERY_MS) return;
        toldAt = performance.now();
        tell({ type: 'receiving', receivedBytes });
      };
      tried({ ...order, signal, onBytes })
        .then((given) => tell({ type: 'ended', answer: given }))
        .catch((error: unknown) => tell({ type: 'failed', problem: problemOf(error) }));
      return () => left.abort();
    },
    ({ type }) => type !== 'receiving',
  );
}
