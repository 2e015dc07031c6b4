/** The type of lines of JSON. */
export const LINES = 'application/x-ndjson';

/**
 * A response of lines of JSON, each told as it comes.
 * @param begin returns the way to end it early
 * @param isLast true of the message behind which it ends
 */
export function streamLines<T>(
  begin: (hear: (message: T) => void) => () => void,
  isLast: (message: T) => boolean,
): Response {
  const encoder = new TextEncoder();
  let stop = (): void => undefined;
  let isOver = false;
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      stop = begin((message) => {
        if (isOver) return;
        controller.enqueue(encoder.encode(`${JSON.stringify(message)}\n`));
        if (!isLast(message)) return;
        isOver = true;
        controller.close();
      });
    },
    cancel() {
      isOver = true;
      stop();
    },
  });
  return new Response(stream, { headers: { 'content-type': LINES, 'cache-control': 'no-store' } });
}
