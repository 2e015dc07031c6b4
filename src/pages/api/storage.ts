import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { getTrazado } from '#server/trazado';

export const GET: APIRoute = ({ request }) =>
  answer(async () => {
    const trazado = getTrazado();
    return json(request, { bytes: trazado.storageBytes(), freeBytes: await trazado.freeBytes() });
  });
