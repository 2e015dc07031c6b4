import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { listDrafts } from '#server/db/drafts';
import { getCapture } from '#server/known-capture';
import { getTrazado } from '#server/trazado';

export const GET: APIRoute = ({ request, params }) =>
  answer(() => {
    const { id } = getCapture(params);
    return json(request, listDrafts(getTrazado().connection, id));
  });
