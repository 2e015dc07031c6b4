import { parentPort, workerData } from 'node:worker_threads';
import { type Hit, prepareSearch, wordFindProblem } from '#core/find';
import { openConnection } from '../db/connection';
import { TookTooLong } from './bounded';
import { findInCapture } from './find-in-capture';
import { MOST_HITS } from './merge';
import type { FindWorkerData, FoundBlock, FromFindWorker, ToFindWorker } from './protocol';

// A thread that searches, so that the server's own thread keeps answering; large captures are shared among several.

const TELL_EVERY_MS = 60;

if (parentPort === null) throw new Error('This file is a worker: the server starts it.');
const port = parentPort;
const { dataFolder } = workerData as FindWorkerData;
const connection = openConnection(dataFolder, true);
const tell = (message: FromFindWorker): void => port.postMessage(message);

port.on('message', ({ captureId, query, share }: ToFindWorker) => {
  const prepared = prepareSearch(query);
  if (!prepared.ok) {
    tell({ type: 'ended', problem: wordFindProblem(prepared.problem), rest: [] });
    return;
  }
  let waiting: FoundBlock[] = [];
  let open: { readonly block: number; searched: number; readonly hits: Hit[] } | undefined;
  let count = 0;
  let place = -1;
  let toldAt = 0;
  const flush = (): void => {
    if (waiting.length > 0) tell({ type: 'found', blocks: waiting });
    waiting = [];
    toldAt = Date.now();
  };
  const close = (): void => {
    if (open !== undefined) waiting.push(open);
    open = undefined;
  };
  try {
    for (const searched of findInCapture(connection, captureId, prepared.search, share)) {
      ({ place } = searched);
      if (open?.block !== searched.block) {
        close();
        if (Date.now() - toldAt >= TELL_EVERY_MS) flush();
        if (count >= MOST_HITS) break;
        open = { block: searched.block, searched: 0, hits: [] };
      }
      open.searched = place + 1;
      open.hits.push(...searched.hits);
      count += searched.hits.length;
    }
    close();
    flush();
    tell({ type: 'ended', problem: undefined, rest: [] });
  } catch (error) {
    flush();
    tell({ type: 'ended', problem: explain(error, place + 1), rest: open?.hits ?? [] });
  }
});

function explain(error: unknown, place: number): string {
  if (error instanceof TookTooLong) {
    return `This regular expression takes too long on exchange #${place}: ${error.message}. Make it simpler; what was found before stays.`;
  }
  return `The search failed: ${error instanceof Error ? error.message : String(error)}.`;
}
