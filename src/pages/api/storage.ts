import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { getTrazado } from '#server/trazado';

export const GET: APIRoute = ({ request }) => answer(() => json(request, { bytes: getTrazado().storageBytes() }));
