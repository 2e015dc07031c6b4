import type { APIRoute } from 'astro';
import { unpackKept } from '#core/sheet';
import { answer, json } from '#server/answer';
import { listTrials } from '#server/db/trials';
import { guardSending } from '#server/guard';
import { getCapture } from '#server/known-capture';
import { ServerProblem } from '#server/problem';
import { DRAFT_LIMIT_BYTES, readJson } from '#server/read-json';
import { tryDraft } from '#server/send/trial';
import { getTrazado } from '#server/trazado';
import { draftParams, trialOrder, validate } from '#server/validate';

/** The trials of a draft, the newest first. */
export const GET: APIRoute = ({ request, params }) =>
  answer(() => {
    getCapture(params);
    const { draft } = validate(draftParams, params);
    return json(request, listTrials(getTrazado().connection, draft));
  });

/** Sends a draft once, as it is handed over. */
export const POST: APIRoute = ({ request, params }) =>
  answer(async () => {
    guardSending(request);
    const { id } = getCapture(params);
    const { draft } = validate(draftParams, params);
    const { kept, leave } = await readJson(request, trialOrder, DRAFT_LIMIT_BYTES);
    if (kept.id !== draft)
      throw new ServerProblem('invalid-input', 'The draft is of another address.', 'Send it to its own.');
    const trazado = getTrazado();
    const order = { captureId: id, kept: unpackKept(kept), leave, signal: request.signal };
    return json(request, await tryDraft(trazado.connection, (run) => trazado.write(run), order));
  });
