import type { APIRoute } from 'astro';
import { answer } from '#server/answer';
import { exportHar } from '#server/export-har';
import { getCapture } from '#server/known-capture';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { exportOrder } from '#server/validate';

/** A million numbers of exchanges. */
const ORDER_LIMIT_BYTES = 10 * 1024 * 1024;

export const POST: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const { places } = await readJson(request, exportOrder, ORDER_LIMIT_BYTES);
    const { connection } = getTrazado();
    const headers = { 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-store' };
    return new Response(exportHar(connection, id, places), { headers });
  });
