import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { describeCapture, restore, setDeleted } from '#server/db/captures';
import { getCapture } from '#server/known-capture';
import { ServerProblem } from '#server/problem';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { captureChange, captureParams, validate } from '#server/validate';

const noSuchCapture = (): ServerProblem =>
  new ServerProblem('not-found', 'This capture is not on the shelf.', 'Go to the shelf and drop its file again.');

export const GET: APIRoute = ({ request, params }) =>
  answer(() => {
    return json(request, getCapture(params));
  });

export const PATCH: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = validate(captureParams, params);
    const change = await readJson(request, captureChange);
    const trazado = getTrazado();
    if (change.deleted === true) {
      trazado.runs.pauseOf(id);
      await trazado.rehearsals.stopOf(id);
    }
    const found = await trazado.write((connection) => {
      const { name, note } = change;
      const described = (name === undefined && note === undefined) || describeCapture(connection, id, { name, note });
      const moved =
        change.deleted === undefined ||
        (change.deleted ? setDeleted(connection, id, Date.now()) : restore(connection, id, Date.now()));
      return described && moved;
    });
    if (!found) throw noSuchCapture();
    trazado.tidy();
    return json(request, { id });
  });
