import type { APIRoute } from 'astro';
import type { PackedKeptDraft } from '#core/convert';
import { answer, json } from '#server/answer';
import { findCapture } from '#server/db/captures';
import { dropDraft, writeDraft } from '#server/db/drafts';
import { ServerProblem } from '#server/problem';
import { getTrazado } from '#server/trazado';
import { draftParams, keptDraft, validate } from '#server/validate';

/** Keeps a draft as it is now. */
export const PUT: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id, draft } = validate(draftParams, params);
    const kept = validate(keptDraft, await request.json());
    if (kept.id !== draft) {
      throw new ServerProblem('invalid-input', 'The draft is of another address.', 'Send it to its own.');
    }
    if (findCapture(getTrazado().connection, id) === undefined) {
      throw new ServerProblem('not-found', 'There is no such capture here.', 'Open it from the shelf.');
    }
    await getTrazado().write((connection) =>
      writeDraft(connection, id, kept as unknown as PackedKeptDraft, Date.now()),
    );
    return json(request, {});
  });

export const DELETE: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id, draft } = validate(draftParams, params);
    await getTrazado().write((connection) => dropDraft(connection, id, draft));
    return json(request, {});
  });
