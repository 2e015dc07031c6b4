import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { readDismissals, writeDismissal } from '#server/db/findings';
import { getCapture } from '#server/known-capture';
import { ServerProblem } from '#server/problem';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { dismissal } from '#server/validate';

export const GET: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const found = await getTrazado().findings(id);
    if (found?.problem !== undefined) {
      throw new ServerProblem(
        'internal',
        `The diagnosis of this capture failed: ${found.problem}.`,
        'The waterfall, the dossiers and the search are as they should be; only findings are missing.',
      );
    }
    if (found === undefined) return json(request, { state: 'reading' });
    const { findings, byPage } = found;
    return json(request, { state: 'there', findings, byPage, dismissed: readDismissals(getTrazado().connection, id) });
  });

/** Sets a finding aside for a reason, or takes that back. */
export const PATCH: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const { key, reason } = await readJson(request, dismissal);
    await getTrazado().write((connection) => writeDismissal(connection, id, key, reason ?? undefined));
    return json(request, readDismissals(getTrazado().connection, id));
  });
