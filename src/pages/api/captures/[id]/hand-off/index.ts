import type { APIRoute } from 'astro';
import type { HandOffProgress } from '#core/wire';
import { answer } from '#server/answer';
import { requireFindings } from '#server/hand-off/require-findings';
import { getCapture } from '#server/known-capture';
import { streamLines } from '#server/lines';
import { readJson } from '#server/read-json';
import { getTrazado } from '#server/trazado';
import { HAND_OFF_LIMIT_BYTES, handOffOrder } from '#server/validate-hand-off';

/** Makes what leaves of a capture: one HandOffProgress on each line, the last one "made" or "failed". */
export const POST: APIRoute = ({ request, params }) =>
  answer(async () => {
    const { id, name } = getCapture(params);
    const order = await readJson(request, handOffOrder, HAND_OFF_LIMIT_BYTES);
    await requireFindings(id);
    return streamLines<HandOffProgress>(
      (hear) => getTrazado().handOffs.make({ captureId: id, name }, order, hear),
      ({ type }) => type !== 'progress',
    );
  });
