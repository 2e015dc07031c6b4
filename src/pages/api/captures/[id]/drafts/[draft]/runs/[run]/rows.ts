import type { APIRoute } from 'astro';
import { rowsAsCsv, rowsAsJson, rowsAsLines } from '#core/series';
import { answer } from '#server/answer';
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

/** What a series has gathered by now, as one table. */
export const GET: APIRoute = ({ params, url }) =>
  answer(() => {
    const { id } = getCapture(params);
    const { run } = validate(runParams, params);
    const { form, from, once } = validate(rowsQuery, Object.fromEntries(url.searchParams));
    const { connection, runs } = getTrazado();
    const found = runs.get(id, run);
    const { write, type } = FORMS[form];
    const rows = (): ReturnType<typeof gatheredRows> => gatheredRows(connection, found);
    const choice = { once: once === 'yes', ...(from === undefined ? {} : { valueColumn: from }) };
    return streamText(write(rows, choice), type);
  });
