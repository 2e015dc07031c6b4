import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { getCapture } from '#server/known-capture';
import { readLoad } from '#server/load';
import { getTrazado } from '#server/trazado';
import { loadQuery, validate } from '#server/validate';

export const GET: APIRoute = ({ request, params, url }) =>
  answer(async () => {
    const card = getCapture(params);
    const { after } = validate(loadQuery, Object.fromEntries(url.searchParams));
    return json(request, await readLoad(getTrazado().connection, card, after));
  });
