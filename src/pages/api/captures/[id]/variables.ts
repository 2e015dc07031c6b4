import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { changeVariables } from '#server/db/drafts';
import { getCapture } from '#server/known-capture';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { changedVariables } from '#server/validate';

/** Changes the variables that the drafts of a capture share, and gives all of them. */
export const PATCH: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const change = await readJson(request, changedVariables);
    const variables = await getTrazado().write((connection) => changeVariables(connection, id, change));
    return json(request, { variables });
  });
