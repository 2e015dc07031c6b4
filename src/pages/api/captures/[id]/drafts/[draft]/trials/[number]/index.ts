import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { changeTrial, findSent } from '#server/db/trials';
import { getCapture } from '#server/known-capture';
import { ServerProblem } from '#server/problem';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { trialChange, trialParams, validate } from '#server/validate';

/** The sheet that was sent. */
export const GET: APIRoute = ({ request, params }) =>
  answer(() => {
    getCapture(params);
    const { draft, number } = validate(trialParams, params);
    const sent = findSent(getTrazado().connection, draft, number);
    if (sent === undefined) throw noTrial(number);
    return json(request, sent.sheet);
  });

/** Notes a trial, deletes it, or brings it back. */
export const PATCH: APIRoute = ({ request, params }) =>
  answer(async () => {
    getCapture(params);
    const { draft, number } = validate(trialParams, params);
    const { note, deleted } = await readJson(request, trialChange);
    const change = {
      ...(note === undefined ? {} : { note }),
      ...(deleted === undefined ? {} : { deletedAt: deleted ? Date.now() : null }),
    };
    const isThere = await getTrazado().write((connection) => changeTrial(connection, draft, number, change));
    if (!isThere) throw noTrial(number);
    return json(request, {});
  });

const noTrial = (number: number): ServerProblem =>
  new ServerProblem('not-found', `There is no trial ${number}.`, 'Send the draft again.');
