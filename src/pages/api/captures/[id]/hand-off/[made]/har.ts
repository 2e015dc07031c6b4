import { createReadStream } from 'node:fs';
import { Readable } from 'node:stream';
import type { APIRoute } from 'astro';
import { isProven } from '#core/redact';
import { answer } from '#server/answer';
import { getMade } from '#server/hand-off/get-made';
import { ServerProblem } from '#server/problem';

/** What was made, once it is proven. */
export const GET: APIRoute = ({ params }) =>
  answer(() => {
    const { made, path } = getMade(params);
    if (!isProven(made.proof))
      throw new ServerProblem('not-proven', 'The proof failed: nothing leaves.', 'See the proof for what is left.');
    const stream = Readable.toWeb(createReadStream(path)) as ReadableStream<Uint8Array>;
    const headers = { 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-store' };
    return new Response(stream, { headers });
  });
