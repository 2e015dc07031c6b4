import { join } from 'node:path';
import { promisify } from 'node:util';
import { gzip } from 'node:zlib';
import type { ProblemAnswer } from '#core/wire';
import { findDataFolder } from './data-folder';
import { DATABASE_FILE } from './db/connection';
import { storageTrouble } from './db/trouble';
import { log } from './log';
import { PROBLEM_STATUS, ServerProblem, storageProblem } from './problem';

const gzipAsync = promisify(gzip);
/** Answers under this are not worth compressing. */
const GZIP_FROM_BYTES = 2000;

/** A JSON answer, compressed where the client takes that and it is worth it. */
export async function json(request: Request, value: unknown, status = 200): Promise<Response> {
  const text = JSON.stringify(value);
  const headers = new Headers({ 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-store' });
  const takesGzip = request.headers.get('accept-encoding')?.includes('gzip') === true;
  if (!takesGzip || text.length < GZIP_FROM_BYTES) return new Response(text, { status, headers });
  headers.set('content-encoding', 'gzip');
  return new Response(new Uint8Array(await gzipAsync(text, { level: 4 })), { status, headers });
}

/** Runs an endpoint and turns whatever it throws into status, code and sentence: the one place where errors end. */
export async function answer(run: () => Promise<Response> | Response): Promise<Response> {
  try {
    return await run();
  } catch (error) {
    return problemResponse(error);
  }
}

/** What an error is for whoever asked, in words. */
export function problemOf(error: unknown): ProblemAnswer & Pick<ServerProblem, 'code'> {
  const { code, sentence, advice } = error instanceof ServerProblem ? error : unexpected(error);
  return { code, sentence, advice };
}

export function problemResponse(error: unknown): Response {
  const body = problemOf(error);
  return new Response(JSON.stringify(body), {
    status: PROBLEM_STATUS[body.code],
    headers: { 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-store' },
  });
}

/** What no endpoint expected: the storage, mostly; else a fault of ours, whose cause the log has. */
function unexpected(error: unknown): ServerProblem {
  log.error({ err: error }, 'a request failed unexpectedly');
  const trouble = storageTrouble(join(findDataFolder(), DATABASE_FILE), error);
  if (trouble === undefined) {
    return new ServerProblem(
      'internal',
      'Internal error.',
      'Try again; details are in the terminal where Trazado runs.',
    );
  }
  return storageProblem(trouble);
}
