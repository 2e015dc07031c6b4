import type { APIRoute } from 'astro';
import { answer } from '#server/answer';
import { getTrazado } from '#server/trazado';
import { captureParams, validate } from '#server/validate';

/** The progress of an import as server-sent events (WHATWG HTML 9.2); the stream ends with the import. */
export const GET: APIRoute = ({ params }) =>
  answer(() => {
    const { id } = validate(captureParams, params);
    const encoder = new TextEncoder();
    let stop = (): void => undefined;
    let isOpen = true;
    const stream = new ReadableStream<Uint8Array>({
      start(controller) {
        const close = (): void => {
          if (!isOpen) return;
          isOpen = false;
          stop();
          controller.close();
        };
        stop = getTrazado().watchImport(id, (progress) => {
          if (!isOpen) return;
          controller.enqueue(encoder.encode(`data: ${JSON.stringify(progress)}\n\n`));
          if (progress.phase === 'ended') queueMicrotask(close);
        });
      },
      // The page stopped listening: the stream is closed already, and closing it again would throw.
      cancel() {
        isOpen = false;
        stop();
      },
    });
    return new Response(stream, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' } });
  });
