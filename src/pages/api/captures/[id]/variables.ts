import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { writeVariables } from '#server/db/drafts';
import { getCapture } from '#server/known-capture';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { sharedVariables } from '#server/validate';

/** Keeps the variables that the drafts of a capture share. */
export const PUT: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const { variables } = await readJson(request, sharedVariables);
    await getTrazado().write((connection) => writeVariables(connection, id, variables));
    return json(request, {});
  });
