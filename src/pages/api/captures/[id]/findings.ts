import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { findCapture } from '#server/db/captures';
import { readDismissals, writeDismissal } from '#server/db/findings';
import { ServerProblem } from '#server/problem';
import { getTrazado } from '#server/trazado';
import { captureParams, dismissal, validate } from '#server/validate';

function getKnown(id: string): void {
  if (findCapture(getTrazado().connection, id) === undefined) {
    throw new ServerProblem('not-found', 'There is no such capture here.', 'Open it from the shelf.');
  }
}

export const GET: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = validate(captureParams, params);
    getKnown(id);
    const found = await getTrazado().findings(id);
    if (found?.problem !== undefined) {
      throw new ServerProblem(
        'internal',
        `The diagnosis of this capture broke off: ${found.problem}.`,
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
    const { id } = validate(captureParams, params);
    const { key, reason } = validate(dismissal, await request.json());
    getKnown(id);
    await getTrazado().write((connection) => writeDismissal(connection, id, key, reason ?? undefined));
    return json(request, readDismissals(getTrazado().connection, id));
  });
