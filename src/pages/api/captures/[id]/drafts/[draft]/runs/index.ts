import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { listRuns } from '#server/db/runs';
import { guardSending } from '#server/guard';
import { getCapture } from '#server/known-capture';
import { ServerProblem } from '#server/problem';
import { DRAFT_LIMIT_BYTES, readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { draftParams, validate } from '#server/validate';
import { runOrder } from '#server/validate-runs';

/** The runs of a draft, the newest first. */
export const GET: APIRoute = ({ request, params }) =>
  answer(() => {
    const { id } = getCapture(params);
    const { draft } = validate(draftParams, params);
    return json(request, listRuns(getTrazado().connection, id, draft));
  });

/** Begins a run of the draft as it is handed over: it goes on by itself. */
export const POST: APIRoute = ({ request, params }) =>
  answer(async () => {
    guardSending(request);
    const { id } = getCapture(params);
    const { draft } = validate(draftParams, params);
    const begun = await readJson(request, runOrder, DRAFT_LIMIT_BYTES);
    if (begun.kept.id !== draft)
      throw new ServerProblem('invalid-input', 'The draft is of another address.', 'Begin its own.');
    return json(request, await getTrazado().runs.begin(id, begun));
  });
