import type { APIRoute } from 'astro';
import { answer } from '#server/answer';
import { exportHar } from '#server/export-har';
import { getCapture } from '#server/known-capture';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { exportOrder, PLACES_LIMIT_BYTES } from '#server/validate';

export const POST: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const { places } = await readJson(request, exportOrder, PLACES_LIMIT_BYTES);
    const { connection } = getTrazado();
    const headers = { 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-store' };
    return new Response(exportHar(connection, id, places), { headers });
  });
