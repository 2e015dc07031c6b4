import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { changeMark, readMarks } from '#server/db/marks';
import { getCapture } from '#server/known-capture';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { markOrder } from '#server/validate-hand-off';

export const GET: APIRoute = ({ request, params }) =>
  answer(() => json(request, readMarks(getTrazado().connection, getCapture(params).id)));

/** Marks or notes one thing. Gives all marks of the capture. */
export const PATCH: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const mark = await readJson(request, markOrder);
    const { connection } = getTrazado();
    await getTrazado().write(() => changeMark(connection, id, mark));
    return json(request, readMarks(connection, id));
  });
