import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { findCapture } from '#server/db/captures';
import { listDrafts } from '#server/db/drafts';
import { ServerProblem } from '#server/problem';
import { getTrazado } from '#server/trazado';
import { captureParams, validate } from '#server/validate';

export const GET: APIRoute = ({ request, params }) =>
  answer(() => {
    const { id } = validate(captureParams, params);
    const { connection } = getTrazado();
    if (findCapture(connection, id) === undefined) {
      throw new ServerProblem('not-found', 'There is no such capture here.', 'Open it from the shelf.');
    }
    return json(request, listDrafts(connection, id));
  });
