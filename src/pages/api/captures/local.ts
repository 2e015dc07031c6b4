import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { isOpenToOthers } from '#server/guard';
import { ServerProblem } from '#server/problem';
import { getTrazado } from '#server/trazado';
import { localFile, validate } from '#server/validate';

/** Takes in a file by its path on this machine. Only for this machine's own user: others must upload what is theirs. */
export const POST: APIRoute = ({ request }) =>
  answer(async () => {
    if (isOpenToOthers()) {
      const advice = 'Drop the file on the page instead.';
      throw new ServerProblem(
        'foreign-origin',
        'Files of this machine are not for those who reach it from others.',
        advice,
      );
    }
    const { path } = validate(localFile, await request.json().catch(() => undefined));
    return json(request, await getTrazado().takeInLocal(path));
  });
