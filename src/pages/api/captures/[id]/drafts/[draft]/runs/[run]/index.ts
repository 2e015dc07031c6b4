import type { APIRoute } from 'astro';
import type { RunSeen } from '#core/wire';
import { answer, json } from '#server/answer';
import { listSteps } from '#server/db/runs';
import { guardSending } from '#server/guard';
import { getCapture } from '#server/known-capture';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { validate } from '#server/validate';
import { runChange, runParams, stepsQuery } from '#server/validate-runs';

/** A run as it is now, with its steps behind a number. */
export const GET: APIRoute = ({ request, params, url }) =>
  answer(() => {
    const { id } = getCapture(params);
    const { run } = validate(runParams, params);
    const { after = 0 } = validate(stepsQuery, Object.fromEntries(url.searchParams));
    const trazado = getTrazado();
    return json(request, {
      run: trazado.runs.get(id, run),
      steps: listSteps(trazado.connection, run, after),
    } satisfies RunSeen);
  });

/** Pauses a run, has it go on, deletes it or brings it back. */
export const PATCH: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id } = getCapture(params);
    const { run } = validate(runParams, params);
    const { does, deleted } = await readJson(request, runChange);
    const { runs } = getTrazado();
    runs.get(id, run);
    if (does === 'go-on') {
      guardSending(request);
      await runs.goOn(id, run);
    } else if (does === 'pause') runs.pause(run);
    if (deleted !== undefined) await runs.remove(id, run, deleted);
    return json(request, runs.get(id, run));
  });
