import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { readPackedRows } from '#server/db/captures';
import { getTrazado } from '#server/trazado';
import { captureParams, validate } from '#server/validate';

export const GET: APIRoute = ({ request, params }) =>
  answer(() => {
    const { id } = validate(captureParams, params);
    return json(request, readPackedRows(getTrazado().connection, id));
  });
