import type { APIRoute } from 'astro';
import { countRepeated, rowsAsCsv, rowsAsJson, rowsAsLines } from '#core/series';
import { answer, json } from '#server/answer';
import { getCapture } from '#server/known-capture';
import { streamText } from '#server/lines';
import { gatheredRows } from '#server/runs/gathered';
import { getTrazado } from '#server/trazado';
import { validate } from '#server/validate';
import { rowsQuery, runParams } from '#server/validate-runs';

const FORMS = {
  csv: { write: rowsAsCsv, type: 'text/csv; charset=utf-8' },
  json: { write: rowsAsJson, type: 'application/json' },
  lines: { write: rowsAsLines, type: 'application/x-ndjson' },
} as const;

/** What a series has gathered by now, as one table, or how many of its rows are there already. */
export const GET: APIRoute = ({ request, params, url }) =>
  answer(() => {
    const { id } = getCapture(params);
    const { run } = validate(runParams, params);
    const { form, from, once } = validate(rowsQuery, Object.fromEntries(url.searchParams));
    const { connection, runs } = getTrazado();
    const found = runs.get(id, run);
    const rows = (): ReturnType<typeof gatheredRows> => gatheredRows(connection, found);
    if (form === 'repeated') return json(request, countRepeated(rows()));
    const { write, type } = FORMS[form];
    const choice = { once: once === 'yes', ...(from === undefined ? {} : { valueColumn: from }) };
    return streamText(write(rows, choice), type);
  });
