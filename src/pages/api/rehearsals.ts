import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { getTrazado } from '#server/trazado';

/** The rehearsals that run, of whichever capture. */
export const GET: APIRoute = ({ request }) => answer(() => json(request, getTrazado().rehearsals.running()));
