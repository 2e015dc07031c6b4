import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { describeCapture, findCapture, setDeleted } from '#server/db/captures';
import { ServerProblem } from '#server/problem';
import { getTrazado } from '#server/trazado';
import { captureChange, captureParams, validate } from '#server/validate';

const noSuchCapture = (): ServerProblem =>
  new ServerProblem('not-found', 'This capture is not on the shelf.', 'Go to the shelf and drop its file again.');

export const GET: APIRoute = ({ request, params }) =>
  answer(() => {
    const { id } = validate(captureParams, params);
    const capture = findCapture(getTrazado().connection, id);
    if (capture === undefined) throw noSuchCapture();
    return json(request, capture);
  });

export const PATCH: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = validate(captureParams, params);
    const change = validate(captureChange, await request.json().catch(() => undefined));
    const trazado = getTrazado();
    const found = await trazado.write((connection) => {
      const { name, note } = change;
      const described = (name === undefined && note === undefined) || describeCapture(connection, id, { name, note });
      const moved = change.deleted === undefined || setDeleted(connection, id, change.deleted ? Date.now() : undefined);
      return described && moved;
    });
    if (!found) throw noSuchCapture();
    trazado.tidy();
    return json(request, { id });
  });
