import { randomUUID } from 'node:crypto';
import type { APIRoute } from 'astro';
import { answer, json } from '#server/answer';
import { listCaptures } from '#server/db/captures';
import { ServerProblem } from '#server/problem';
import { guardPush } from '#server/push-token';
import { getTrazado } from '#server/trazado';
import { uploadQuery, validate } from '#server/validate';

export const GET: APIRoute = ({ request }) => answer(() => json(request, listCaptures(getTrazado().connection)));

export const POST: APIRoute = ({ request, url }) =>
  answer(async () => {
    guardPush(request, getTrazado().dataFolder);
    const { name, importId = randomUUID() } = validate(uploadQuery, Object.fromEntries(url.searchParams));
    if (/^multipart\/form-data/i.test(request.headers.get('content-type') ?? '')) {
      throw new ServerProblem(
        'form',
        'The file came inside a form.',
        'Send it as the body itself, for example with curl: --data-binary @FILE.',
      );
    }
    if (request.body === null) {
      throw new ServerProblem('unreadable', 'The file is empty: it has no bytes.', 'Save the capture again.');
    }
    const results = await getTrazado().takeIn({ name, importId, signal: request.signal }, request.body);
    return json(request, results, results.some(({ type }) => type === 'imported') ? 201 : 200);
  });
