import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { readComparison } from '#server/comparison';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { compareOrder, PASTE_LIMIT_BYTES } from '#server/validate';

/** Two exchanges compared, of any captures, or pasted: too long for an address. */
export const POST: APIRoute = ({ request }) =>
  answer(async () => {
    const { here, there } = await readJson(request, compareOrder, PASTE_LIMIT_BYTES);
    return json(request, readComparison(getTrazado().connection, here, there));
  });
