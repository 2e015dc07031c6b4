import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { readKnownNames } from '#server/named-columns';
import { getTrazado } from '#server/trazado';
import { captureParams, validate } from '#server/validate';

export const GET: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = validate(captureParams, params);
    return json(request, await readKnownNames(getTrazado().connection, id));
  });
