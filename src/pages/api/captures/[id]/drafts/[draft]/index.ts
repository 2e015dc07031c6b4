import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { dropDraft, writeDraft } from '#server/db/drafts';
import { getCapture } from '#server/known-capture';
import { ServerProblem } from '#server/problem';
import { DRAFT_LIMIT_BYTES, readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { draftParams, keptDraft, validate } from '#server/validate';

/** Keeps a draft as it is now. */
export const PUT: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id, draft } = validate(draftParams, params);
    const kept = await readJson(request, keptDraft, DRAFT_LIMIT_BYTES);
    if (kept.id !== draft) {
      throw new ServerProblem('invalid-input', 'The draft is of another address.', 'Send it to its own.');
    }
    getCapture(params);
    await getTrazado().write((connection) => writeDraft(connection, id, kept, Date.now()));
    return json(request, {});
  });

export const DELETE: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id, draft } = validate(draftParams, params);
    const trazado = getTrazado();
    trazado.runs.pauseOf(id, draft);
    await trazado.write((connection) => dropDraft(connection, id, draft, Date.now()));
    return json(request, {});
  });
