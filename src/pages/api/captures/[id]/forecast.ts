import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { readForecast } from '#server/forecast';
import { getCapture } from '#server/known-capture';
import { getTrazado } from '#server/trazado';
import { pageQuery, validate } from '#server/validate';

export const GET: APIRoute = ({ request, params, url }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const { page } = validate(pageQuery, Object.fromEntries(url.searchParams));
    return json(request, await readForecast(getTrazado().connection, id, page));
  });
