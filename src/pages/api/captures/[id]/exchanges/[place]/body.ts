import type { APIRoute } from 'astro';
import { essence } from '#core/har';
import { findResponse } from '#core/model';
import { answer } from '#server/answer';
import { findBody, getExchange } from '#server/dossier';
import { ServerProblem } from '#server/problem';
import { getTrazado } from '#server/trazado';
import { exchangeParams, validate } from '#server/validate';

/** Image types that browsers draw; anything else is handed over as bytes, so that nothing captured is ever rendered. */
const DRAWABLE = /^image\/(png|jpeg|gif|webp|avif|svg\+xml|x-icon|vnd\.microsoft\.icon|bmp)$/;

export const GET: APIRoute = ({ params }) =>
  answer(() => {
    const { id, place } = validate(exchangeParams, params);
    const exchange = getExchange(getTrazado().connection, id, place);
    const body = findBody(exchange);
    if (body === undefined) {
      throw new ServerProblem('not-found', 'The body was not recorded.', 'Record again, saving with content.');
    }
    const type = essence(findResponse(exchange)?.mimeType) ?? '';
    return new Response(new Uint8Array(body.bytes), {
      headers: {
        'content-type': DRAWABLE.test(type) ? type : 'application/octet-stream',
        'content-security-policy': "sandbox; default-src 'none'; style-src 'unsafe-inline'",
        'x-content-type-options': 'nosniff',
        'cache-control': 'private, max-age=3600',
      },
    });
  });
