import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { getMade } from '#server/hand-off/get-made';
import { ServerProblem } from '#server/problem';
import { exchangeParams, validate } from '#server/validate';

/** An exchange as it leaves, and what is inked out in it. */
export const GET: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { place } = validate(exchangeParams, params);
    const preview = await getMade(params).ask(place);
    if (preview !== undefined) return json(request, preview);
    throw new ServerProblem('not-found', 'This exchange does not leave.', 'Choose one that does.');
  });
