import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { readComparison } from '#server/comparison';
import { getCapture } from '#server/known-capture';
import { getTrazado } from '#server/trazado';
import { compareQuery, validate } from '#server/validate';

export const GET: APIRoute = ({ request, params, url }) =>
  answer(() => {
    const { id } = getCapture(params);
    const { here, there } = validate(compareQuery, Object.fromEntries(url.searchParams));
    return json(request, readComparison(getTrazado().connection, id, here, there));
  });
