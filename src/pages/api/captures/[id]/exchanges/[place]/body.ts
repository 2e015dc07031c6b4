import type { APIRoute } from 'astro';
import { decodeText, pictureMarkup } from '#core/content';
import { essence } from '#core/har';
import { findResponse } from '#core/model';
import { answer } from '#server/answer';
import { findBody, getExchange, shapeOf } from '#server/dossier';
import { getCapture } from '#server/known-capture';
import { ServerProblem } from '#server/problem';
import { getTrazado } from '#server/trazado';
import { bodyQuery, exchangeParams, validate } from '#server/validate';

/** Types that browsers draw or play without running anything; all else is handed over as bytes. */
const DRAWABLE =
  /^(image\/(png|jpeg|gif|webp|avif|svg\+xml|x-icon|vnd\.microsoft\.icon|bmp)|audio\/[\w.+-]+|video\/[\w.+-]+)$/;

/** Nothing captured runs, loads or reaches anything: whatever it is, it is a picture in a box. */
const POLICY = "sandbox; default-src 'none'; style-src 'unsafe-inline'; img-src data:; frame-ancestors 'self'";

export const GET: APIRoute = ({ request, params, url }) =>
  answer(() => {
    const { id } = getCapture(params);
    const { place } = validate(exchangeParams, params);
    const { as } = validate(bodyQuery, Object.fromEntries(url.searchParams));
    const exchange = getExchange(getTrazado().connection, id, place);
    const body = findBody(exchange);
    if (body === undefined) {
      throw new ServerProblem('not-found', 'The body was not recorded.', 'Record again, saving with content.');
    }
    const type = findResponse(exchange)?.mimeType;
    const shape = shapeOf(exchange, body);
    const isPicture = as === 'picture' && shape === 'html';
    const charsetType = findResponse(exchange)?.body?.encoding === 'text' ? undefined : type;
    const content = isPicture ? pictureMarkup(decodeText(body.bytes, charsetType)) : new Uint8Array(body.bytes);
    // In a tab of its own an SVG is a document, which may hold frames; in a page it is an image.
    const isDocument = /^(?:document|iframe|frame|embed|object)$/.test(request.headers.get('sec-fetch-dest') ?? '');
    const served = servedType(essence(type) ?? '', shape === 'image');
    return new Response(content, {
      headers: {
        'content-type': isPicture
          ? 'text/html; charset=utf-8'
          : isDocument && /svg/.test(served)
            ? 'text/plain; charset=utf-8'
            : served,
        'content-security-policy': POLICY,
        'x-content-type-options': 'nosniff',
        'cache-control': 'private, max-age=3600',
        vary: 'sec-fetch-dest',
      },
    });
  });

/** An image of no known type is served as one: browsers look at its bytes then. */
const servedType = (type: string, isImage: boolean): string =>
  DRAWABLE.test(type) ? type : isImage ? 'image/png' : 'application/octet-stream';
