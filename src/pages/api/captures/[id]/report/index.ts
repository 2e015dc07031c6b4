import type { APIRoute } from 'astro';
import type { ReportProgress } from '#core/wire';
import { answer } from '#server/answer';
import { requireFindings } from '#server/hand-off/require-findings';
import { getCapture } from '#server/known-capture';
import { streamLines } from '#server/lines';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { HAND_OFF_LIMIT_BYTES, reportOrder } from '#server/validate-hand-off';

/** Writes a report: one ReportProgress on each line, the last one "written" or "failed". */
export const POST: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id, name } = getCapture(params);
    const { choice, comparedWith, page, parts, format, notes } = await readJson(
      request,
      reportOrder,
      HAND_OFF_LIMIT_BYTES,
    );
    const other = comparedWith === undefined ? undefined : getCapture({ id: comparedWith });
    for (const one of [id, ...(other === undefined ? [] : [other.id])]) await requireFindings(one);
    const job = {
      of: { captureId: id, name, page },
      comparedWith: other === undefined ? undefined : { captureId: other.id, name: other.name },
      parts,
      format,
      notes,
    };
    return streamLines<ReportProgress>(
      (hear) => getTrazado().handOffs.report(job, { choice }, hear),
      ({ type }) => type !== 'progress',
    );
  });
