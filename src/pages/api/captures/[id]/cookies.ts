import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { readCookieTrails } from '#server/cookie-trails';
import { getCapture } from '#server/known-capture';
import { getTrazado } from '#server/trazado';
import { cookieQuery, validate } from '#server/validate';

export const GET: APIRoute = ({ request, params, url }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const { from, name } = validate(cookieQuery, {
      from: url.searchParams.get('from'),
      name: url.searchParams.getAll('name'),
    });
    return json(request, await readCookieTrails(getTrazado().connection, id, name, from));
  });
