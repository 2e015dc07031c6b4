import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { readHeld } from '#server/held';
import { getCapture } from '#server/known-capture';
import { getTrazado } from '#server/trazado';
import { heldQuery, validate } from '#server/validate';

export const GET: APIRoute = ({ request, params, url }) =>
  answer(() => {
    const { id } = getCapture(params);
    const { here, there } = validate(heldQuery, Object.fromEntries(url.searchParams));
    return json(request, readHeld(getTrazado().connection, id, here, there));
  });
