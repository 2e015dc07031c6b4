import type Joi from 'joi';
import { ServerProblem } from './problem';
import { validate } from './validate';

/** A draft's payload may be a file's content. */
export const DRAFT_LIMIT_BYTES = 80 * 1024 * 1024;

/** Orders are short; whoever takes more says so. */
const DEFAULT_LIMIT_BYTES = 1024 * 1024;

/**
 * So much of what is not wanted is heard all the same. A connection on which something is left unread is broken off by some
 * versions of the engine: the sender, who is still sending, would not hear the answer, and the next request would be lost.
 */
const HEARD_BYTES = 64 * 1024 * 1024;

/** Hears out a request that was answered without being read. */
export async function hearOut(request: Request): Promise<void> {
  if (request.body === null || request.bodyUsed) return;
  let bytes = 0;
  for await (const chunk of request.body) {
    bytes += (chunk as Uint8Array).length;
    if (bytes > HEARD_BYTES) return;
  }
}

/**
 * Reads and checks the JSON of a request. Throws a ServerProblem where it is none, not what the schema says, or longer than
 * it may be.
 */
export async function readJson<T>(
  request: Request,
  schema: Joi.ObjectSchema<T>,
  limitBytes = DEFAULT_LIMIT_BYTES,
): Promise<T> {
  const declared = Number(request.headers.get('content-length') ?? 0);
  if (declared > HEARD_BYTES) throw tooLarge(limitBytes);
  const chunks: Uint8Array[] = [];
  let bytes = 0;
  for await (const chunk of request.body ?? []) {
    bytes += (chunk as Uint8Array).length;
    if (bytes > HEARD_BYTES) break;
    if (bytes <= limitBytes) chunks.push(chunk as Uint8Array);
  }
  if (bytes > limitBytes) throw tooLarge(limitBytes);
  let value: unknown;
  try {
    value = JSON.parse(Buffer.concat(chunks).toString('utf8'));
  } catch {
    throw new ServerProblem('invalid-input', 'The request is not JSON.', 'Correct the request and send it again.');
  }
  return validate(schema, value);
}

const tooLarge = (limitBytes: number): ServerProblem =>
  new ServerProblem(
    'too-large',
    `The request is larger than ${Math.round(limitBytes / 1e6)} MB.`,
    'Send less at once.',
  );
