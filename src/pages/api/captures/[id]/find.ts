import type { APIRoute } from 'astro';
import type { FindProgress } from '#core/wire';
import { answer } from '#server/answer';
import { getCapture } from '#server/known-capture';
import { getTrazado } from '#server/trazado';
import { findQuery, validate } from '#server/validate';

/** What is found, as it is found: one FindProgress on each line, the last one "ended". */
export const GET: APIRoute = ({ params, url }) =>
  answer(() => {
    const { id } = getCapture(params);
    const asked = validate(findQuery, Object.fromEntries(url.searchParams));
    const query = { text: asked.text, isRegex: asked.regex, matchesCase: asked.case, wholeWord: asked.word };
    const encoder = new TextEncoder();
    let stop = (): void => undefined;
    const stream = new ReadableStream<Uint8Array>({
      start(controller) {
        stop = getTrazado().finder.find(id, query, (message: FindProgress) => {
          controller.enqueue(encoder.encode(`${JSON.stringify(message)}\n`));
          if (message.type === 'ended') controller.close();
        });
      },
      cancel() {
        stop();
      },
    });
    return new Response(stream, { headers: { 'content-type': 'application/x-ndjson', 'cache-control': 'no-store' } });
  });
