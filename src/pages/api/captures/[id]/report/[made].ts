import type { APIRoute } from 'astro';
import { answer } from '#server/answer';
import { getCapture } from '#server/known-capture';
import { ServerProblem } from '#server/problem';
import { getTrazado } from '#server/trazado';

/** A report holds texts of a capture: it is drawn in a box, like everything that was captured. */
const POLICY = "sandbox; default-src 'none'; style-src 'unsafe-inline'; img-src data:; frame-ancestors 'self'";

export const GET: APIRoute = ({ params }) =>
  answer(() => {
    const { id } = getCapture(params);
    const text = getTrazado().handOffs.findReport(id, params['made'] ?? '');
    if (text === undefined) throw new ServerProblem('not-found', 'The report is no longer kept.', 'Make it again.');
    return new Response(text, {
      headers: {
        'content-type': 'text/html; charset=utf-8',
        'content-security-policy': POLICY,
        'cache-control': 'no-store',
      },
    });
  });
