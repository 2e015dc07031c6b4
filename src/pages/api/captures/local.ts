import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { isOpenToOthers, isOwn } from '#server/guard';
import { ServerProblem } from '#server/problem';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { localFile } from '#server/validate';

/** Takes in a file by its path on this machine. Only for this machine's own user: others must upload what is theirs. */
export const POST: APIRoute = ({ request }) =>
  answer(async () => {
    if (isOpenToOthers() && !isOwn(request)) {
      const advice = 'Drop the file on the page instead.';
      throw new ServerProblem(
        'foreign-origin',
        'Opening files by path is disabled when Trazado is reachable from other computers.',
        advice,
      );
    }
    const { path } = await readJson(request, localFile);
    return json(request, await getTrazado().takeInLocal(path));
  });
