import type { APIRoute } from 'astro';
import { choiceOf } from '#core/redact';
import { answer, json } from '#server/answer';
import { findChoice, writeChoice } from '#server/db/hand-offs';
import { getCapture } from '#server/known-capture';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { HAND_OFF_LIMIT_BYTES, handOffChoice } from '#server/validate-hand-off';

/** What was chosen last; where nothing was, what a colleague gets. */
export const GET: APIRoute = ({ request, params }) =>
  answer(() => {
    const { id } = getCapture(params);
    return json(request, findChoice(getTrazado().connection, id) ?? choiceOf('colleague'));
  });

export const PUT: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const choice = await readJson(request, handOffChoice, HAND_OFF_LIMIT_BYTES);
    await getTrazado().write((connection) => writeChoice(connection, id, choice));
    return json(request, choice);
  });
