import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { getCapture } from '#server/known-capture';
import { readKnownNames } from '#server/named-columns';
import { getTrazado } from '#server/trazado';

export const GET: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    return json(request, await readKnownNames(getTrazado().connection, id));
  });
