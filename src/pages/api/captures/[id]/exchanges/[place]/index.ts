import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { getDossier } from '#server/dossier';
import { getCapture } from '#server/known-capture';
import { getTrazado } from '#server/trazado';
import { exchangeParams, validate } from '#server/validate';

export const GET: APIRoute = ({ request, params }) =>
  answer(() => {
    const { id } = getCapture(params);
    const { place } = validate(exchangeParams, params);
    return json(request, getDossier(getTrazado().connection, id, place));
  });
