import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { getCapture } from '#server/known-capture';
import { getTrazado } from '#server/trazado';
import { placesQuery, validate } from '#server/validate';
import { readVariation } from '#server/variation';

export const GET: APIRoute = ({ request, params, url }) =>
  answer(() => {
    const { id } = getCapture(params);
    const { places } = validate(placesQuery, { places: url.searchParams.getAll('place') });
    return json(request, readVariation(getTrazado().connection, id, places));
  });
