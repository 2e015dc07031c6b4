import type Joi from 'joi';
import { ServerProblem } from './problem';
import { validate } from './validate';

/** Orders are short; whoever takes more says so. */
const DEFAULT_LIMIT_BYTES = 1024 * 1024;

/**
 * Reads and checks the JSON of a request. Throws a ServerProblem where it is none, not what the schema says, or longer than
 * it may be: the reading ends there.
 */
export async function readJson<T>(
  request: Request,
  schema: Joi.ObjectSchema<T>,
  limitBytes = DEFAULT_LIMIT_BYTES,
): Promise<T> {
  const declared = Number(request.headers.get('content-length') ?? 0);
  if (declared > limitBytes) throw tooLarge(limitBytes);
  const chunks: Uint8Array[] = [];
  let bytes = 0;
  for await (const chunk of request.body ?? []) {
    bytes += (chunk as Uint8Array).length;
    if (bytes > limitBytes) throw tooLarge(limitBytes);
    chunks.push(chunk as Uint8Array);
  }
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
