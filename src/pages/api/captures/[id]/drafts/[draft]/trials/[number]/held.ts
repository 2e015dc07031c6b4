import type { APIRoute } from 'astro';
import { unpackKept } from '#core/sheet';
import { answer, json } from '#server/answer';
import { getCapture } from '#server/known-capture';
import { DRAFT_LIMIT_BYTES, readJson } from '#server/read-json';
import { holdTrial } from '#server/send/trial';
import { getTrazado } from '#server/trazado';
import { heldOrder, trialParams, validate } from '#server/validate';

/** A trial's response held against the captured one, or that of another trial. */
export const POST: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const { number } = validate(trialParams, params);
    const { kept, against } = await readJson(request, heldOrder, DRAFT_LIMIT_BYTES);
    return json(request, holdTrial(getTrazado().connection, id, unpackKept(kept), number, against));
  });
