import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { getCapture } from '#server/known-capture';
import { readJson } from '#server/read-json';
import { findOrigin } from '#server/send/origin';
import { getTrazado } from '#server/trazado';
import { originOrder } from '#server/validate';

/** Where the capture shows that a value came from. Asked for by a body: what is asked about may be a secret. */
export const POST: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const { before, value } = await readJson(request, originOrder);
    return json(request, findOrigin(getTrazado().connection, id, before, value) ?? null);
  });
