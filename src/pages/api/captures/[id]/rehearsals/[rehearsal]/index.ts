import type { APIRoute } from 'astro';
import type { RehearsalSeen } from '#core/wire';
import { answer, json } from '#server/answer';
import { listAsked } from '#server/db/rehearsals';
import { getCapture } from '#server/known-capture';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { validate } from '#server/validate';
import { askedQuery, rehearsalChange, rehearsalParams } from '#server/validate-rehearsals';

/** A rehearsal as it is now, with what it was asked behind a number. */
export const GET: APIRoute = ({ request, params, url }) =>
  answer(() => {
    const { id } = getCapture(params);
    const { rehearsal } = validate(rehearsalParams, params);
    const { after = 0 } = validate(askedQuery, Object.fromEntries(url.searchParams));
    const { rehearsals, connection } = getTrazado();
    const now = rehearsals.get(id, rehearsal);
    return json(request, { rehearsal: now, asked: listAsked(connection, rehearsal, after) } satisfies RehearsalSeen);
  });

/** Stops a rehearsal, has it begin again from the first responses, deletes it or brings it back. */
export const PATCH: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const { rehearsal } = validate(rehearsalParams, params);
    const { does, deleted } = await readJson(request, rehearsalChange);
    const { rehearsals } = getTrazado();
    rehearsals.get(id, rehearsal);
    if (does === 'stop') await rehearsals.stop(rehearsal);
    else if (does === 'rewind') rehearsals.rewind(rehearsal);
    if (deleted !== undefined) await rehearsals.remove(id, rehearsal, deleted);
    return json(request, rehearsals.get(id, rehearsal));
  });
