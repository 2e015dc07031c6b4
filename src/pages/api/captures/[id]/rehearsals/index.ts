import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { guardSending } from '#server/guard';
import { getCapture } from '#server/known-capture';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { REHEARSAL_LIMIT_BYTES, rehearsalOrder } from '#server/validate-rehearsals';

/** The rehearsals of a capture, the newest first. */
export const GET: APIRoute = ({ request, params }) =>
  answer(() => json(request, getTrazado().rehearsals.list(getCapture(params).id)));

/** Starts a server that answers as the capture did; it listens once this is answered. */
export const POST: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id, name } = getCapture(params);
    const order = await readJson(request, rehearsalOrder, REHEARSAL_LIMIT_BYTES);
    if (order.forwards) guardSending(request);
    return json(request, await getTrazado().rehearsals.begin(id, name, order));
  });
