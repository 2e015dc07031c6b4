import type { APIRoute } from 'astro';
import { answer } from '#server/answer';
import { findCapture } from '#server/db/captures';
import { exportHar } from '#server/export-har';
import { ServerProblem } from '#server/problem';
import { getTrazado } from '#server/trazado';
import { captureParams, exportOrder, validate } from '#server/validate';

export const POST: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = validate(captureParams, params);
    const { places } = validate(exportOrder, await request.json().catch(() => undefined));
    const { connection } = getTrazado();
    if (findCapture(connection, id) === undefined) {
      throw new ServerProblem(
        'not-found',
        'This capture is not on the shelf.',
        'Go to the shelf and drop its file again.',
      );
    }
    const headers = { 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-store' };
    return new Response(exportHar(connection, id, places), { headers });
  });
