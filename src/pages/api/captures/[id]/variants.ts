import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { readVariants, writeVariants } from '#server/db/rehearsals';
import { getCapture } from '#server/known-capture';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { REHEARSAL_LIMIT_BYTES, responseVariants } from '#server/validate-rehearsals';

/** The changed responses that are kept with a capture. */
export const GET: APIRoute = ({ request, params }) =>
  answer(() => json(request, readVariants(getTrazado().connection, getCapture(params).id)));

export const PUT: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const { variants } = await readJson(request, responseVariants, REHEARSAL_LIMIT_BYTES);
    await getTrazado().write((connection) => writeVariants(connection, id, variants));
    return json(request, variants);
  });
