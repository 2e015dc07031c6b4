import type { APIRoute } from 'astro';
import { DIAGNOSED_HEADER } from '#core/wire';
import { answer } from '#server/answer';
import { readPackedRows } from '#server/db/captures';
import { hasFindings } from '#server/db/findings';
import { getCapture } from '#server/known-capture';
import { getTrazado } from '#server/trazado';

export const GET: APIRoute = ({ params }) =>
  answer(() => {
    const { id } = getCapture(params);
    const { connection } = getTrazado();
    // Asked before the rows are read: rows may be newer than it says, never older.
    const isDiagnosed = hasFindings(connection, id);
    return new Response(readPackedRows(connection, id), {
      headers: {
        'content-type': 'application/octet-stream',
        'cache-control': 'no-store',
        [DIAGNOSED_HEADER]: String(isDiagnosed),
      },
    });
  });
