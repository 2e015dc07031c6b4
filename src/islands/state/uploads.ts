import { map } from 'nanostores';
import { captureName } from '#core/har';
import type { ImportProgress, ImportResult, ProblemAnswer } from '#core/wire';
import { formatBytes } from '#core/wording';
import { fetchStorage, readProblem } from './api';
import { newId } from './new-id';
import { UNREADABLE_FILE } from './unreadable-file';

/** One file on its way in. It ends with a result for each capture in it, or as a problem. */
export type Upload = {
  readonly id: string;
  readonly name: string;
  readonly totalBytes: number;
  /** When its sending began, in ms since 1970. */
  readonly startedAt: number;
} & (
  | { readonly state: 'sending'; readonly sentBytes: number }
  | { readonly state: 'waiting' }
  | { readonly state: 'reading'; readonly readBytes: number; readonly exchanges: number; readonly since: number }
  | { readonly state: 'ended'; readonly results: readonly ImportResult[] }
  | { readonly state: 'failed'; readonly problem: ProblemAnswer }
);

export const $uploads = map<Record<string, Upload>>({});

const running = new Map<string, XMLHttpRequest>();

const put = (upload: Upload): void => $uploads.setKey(upload.id, upload);

export function forgetUpload(id: string): void {
  const { [id]: _gone, ...rest } = $uploads.get();
  $uploads.set(rest);
}

/** Stops an upload; the server keeps nothing of it. */
export function cancelUpload(id: string): void {
  running.get(id)?.abort();
}

/** Sends a file and follows it until it is on the shelf, or is known not to get there. */
export function upload(file: File): Promise<void> {
  const base = { id: newId(), name: captureName(file.name), totalBytes: file.size, startedAt: Date.now() };
  let readingSince: number | undefined;
  put({ ...base, state: 'sending', sentBytes: 0 });
  const events = new EventSource(`/api/imports/${base.id}/events`);
  events.addEventListener('message', (event: MessageEvent<string>) => {
    const progress = JSON.parse(event.data) as ImportProgress;
    if (progress.phase === 'ended') events.close();
    if (!running.has(base.id)) return;
    if (progress.phase === 'waiting') put({ ...base, state: 'waiting' });
    if (progress.phase !== 'reading') return;
    readingSince ??= Date.now();
    const { readBytes, totalBytes, exchanges } = progress;
    put({ ...base, totalBytes, state: 'reading', readBytes, exchanges, since: readingSince });
  });
  return new Promise((resolve) => {
    const request = new XMLHttpRequest();
    running.set(base.id, request);
    const end = (outcome: Upload | undefined): void => {
      running.delete(base.id);
      events.close();
      if (outcome === undefined) forgetUpload(base.id);
      else put(outcome);
      resolve();
    };
    request.upload.addEventListener('progress', ({ loaded }) => {
      if ($uploads.get()[base.id]?.state === 'sending') put({ ...base, state: 'sending', sentBytes: loaded });
    });
    request.addEventListener('load', () => {
      if (request.status >= 400) {
        end({ ...base, state: 'failed', problem: readProblem(request.responseText) });
        return;
      }
      end({ ...base, state: 'ended', results: JSON.parse(request.responseText) as ImportResult[] });
    });
    request.addEventListener('error', () => {
      // A file that has gone since it was chosen ends the request as a server that has gone would.
      void whyUnreadable(file).then((problem) =>
        end({ ...base, state: 'failed', problem: problem ?? readProblem('') }),
      );
    });
    request.addEventListener('abort', () => end(undefined));
    const query = new URLSearchParams({ name: base.name, importId: base.id });
    request.open('POST', `/api/captures?${query}`);
    if (file.size < ASKED_FROM_BYTES) {
      request.send(file);
      return;
    }
    void whyNoRoom(file).then((problem) => {
      if (problem !== undefined) end({ ...base, state: 'failed', problem });
      else if (running.has(base.id)) request.send(file);
    });
  });
}

/** Why a chosen file cannot be read any more; undefined where it can. */
async function whyUnreadable(file: File): Promise<ProblemAnswer | undefined> {
  try {
    await file.slice(0, 1).arrayBuffer();
    return undefined;
  } catch {
    return {
      code: 'unreadable',
      sentence: UNREADABLE_FILE,
      advice: 'Choose it again.',
    };
  }
}

/** Smaller files are known to be too large soon enough. */
const ASKED_FROM_BYTES = 8 * 1024 * 1024;

/** Says before anything is sent that the disk has no room for a file; undefined where it has, or that is not known. */
async function whyNoRoom(file: File): Promise<ProblemAnswer | undefined> {
  const storage = await fetchStorage();
  // The file itself, while it comes in, and what is kept of it.
  if (!storage.ok || storage.value.freeBytes > file.size * 2) return undefined;
  return {
    code: 'storage-full',
    sentence: `The disk has ${formatBytes(storage.value.freeBytes)} left, too little for a file of ${formatBytes(file.size)}.`,
    advice: 'Free some space and drop it again.',
  };
}
