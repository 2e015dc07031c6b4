import { parentPort, workerData } from 'node:worker_threads';
import { type Hit, prepareSearch, wordBound, wordFindProblem } from '#core/find';
import { openConnection } from '../db/connection';
import { TookTooLong } from './bounded';
import { findInCapture } from './find-in-capture';
import type { FindWorkerData, FromFindWorker, ToFindWorker } from './protocol';

// The thread that searches, so that the server's own thread keeps answering.

const TELL_EVERY_MS = 60;
/** More hits than these nobody reads; the search ends and says so. */
const MOST_HITS = 5000;

if (parentPort === null) throw new Error('This file is a worker: the server starts it.');
const port = parentPort;
const { dataFolder } = workerData as FindWorkerData;
const connection = openConnection(dataFolder, true);
const tell = (message: FromFindWorker): void => port.postMessage(message);

port.on('message', ({ captureId, query }: ToFindWorker) => {
  const prepared = prepareSearch(query);
  if (!prepared.ok) {
    tell({ type: 'ended', isWhole: false, problem: wordFindProblem(prepared.problem) });
    return;
  }
  let waiting: Hit[] = [];
  const bounded: Hit[] = [];
  let count = 0;
  let place = -1;
  let toldAt = 0;
  const flush = (): void => {
    tell({ type: 'found', hits: waiting, searched: place + 1 });
    waiting = [];
    toldAt = Date.now();
  };
  try {
    for (const searched of findInCapture(connection, captureId, prepared.search)) {
      ({ place } = searched);
      waiting.push(...searched.hits.slice(0, MOST_HITS - count));
      count += searched.hits.length;
      bounded.push(...searched.hits.filter(({ hasMore }) => hasMore === true));
      if (Date.now() - toldAt >= TELL_EVERY_MS) flush();
      if (count >= MOST_HITS) break;
    }
    flush();
    const problem =
      count >= MOST_HITS ? `The search ended at ${MOST_HITS} hits: refine it to see all.` : wordBound(bounded);
    tell({ type: 'ended', isWhole: problem === undefined, problem });
  } catch (error) {
    flush();
    tell({ type: 'ended', isWhole: false, problem: explain(error, place + 1) });
  }
});

function explain(error: unknown, place: number): string {
  if (error instanceof TookTooLong) {
    return `This regular expression takes too long on exchange #${place}: ${error.message}. Make it simpler; what was found before stays.`;
  }
  return `The search failed: ${error instanceof Error ? error.message : String(error)}.`;
}
