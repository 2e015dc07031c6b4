import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { readPackedRows } from '#server/db/captures';
import { hasFindings } from '#server/db/findings';
import { getCapture } from '#server/known-capture';
import { getTrazado } from '#server/trazado';

export const GET: APIRoute = ({ request, params }) =>
  answer(() => {
    const { id } = getCapture(params);
    const { connection } = getTrazado();
    // Asked before the rows are read: rows may be newer than it says, never older.
    const isDiagnosed = hasFindings(connection, id);
    return json(request, readPackedRows(connection, id, isDiagnosed));
  });
