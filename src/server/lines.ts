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

/** Pieces of text written as they are wanted: whoever stops reading stops the writing. */
export function streamText(pieces: Generator<string>, type: string): Response {
  const encoder = new TextEncoder();
  const stream = new ReadableStream<Uint8Array>({
    pull(controller) {
      let text = '';
      while (text.length < PIECE_CHARS) {
        const next = pieces.next();
        if (next.done === true) {
          if (text !== '') controller.enqueue(encoder.encode(text));
          controller.close();
          return;
        }
        text += next.value;
      }
      controller.enqueue(encoder.encode(text));
    },
    cancel() {
      pieces.return(undefined);
    },
  });
  return new Response(stream, { headers: { 'content-type': type, 'cache-control': 'no-store' } });
}

const PIECE_CHARS = 64_000;
