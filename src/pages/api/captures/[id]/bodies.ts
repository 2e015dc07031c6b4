import type { APIRoute } from 'astro';
import { answer } from '#server/answer';
import { zipBodies } from '#server/hand-off/zip-bodies';
import { getCapture } from '#server/known-capture';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { bodiesOrder, PLACES_LIMIT_BYTES } from '#server/validate';

/** The bodies of exchanges as a zip, with the paths that the site has. */
export const POST: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const { places } = await readJson(request, bodiesOrder, PLACES_LIMIT_BYTES);
    const headers = { 'content-type': 'application/zip', 'cache-control': 'no-store' };
    return new Response(zipBodies(getTrazado().connection, id, places), { headers });
  });
