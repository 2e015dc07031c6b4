import { join } from 'node:path';
import { setFlagsFromString } from 'node:v8';
import { parentPort, workerData } from 'node:worker_threads';
import { HarError, wordHarProblem } from '#core/har';
import { purgeDeleted } from '../db/captures';
import { checkpoint, DATABASE_FILE, openConnection } from '../db/connection';
import { purgeRehearsals } from '../db/rehearsals';
import { purgeRuns } from '../db/runs';
import { purgeTrials } from '../db/trials';
import { storageTrouble } from '../db/trouble';
import { Turns } from '../db/turns';
import { importApart } from './import-apart';
import { importFile } from './import-file';
import type { Imported, ImportOrder } from './import-order';
import type { FromWorker, ToWorker, WorkerData } from './protocol';
import { ImportCancelled, type ReadingProgress } from './read-capture';
import { reanalyseOutdated } from './reanalyse';
import { signSome } from './sign';
import { unzipCaptures } from './unpack';

// The thread that writes: imports and purges run here, so that the server's own thread keeps answering.

const PROGRESS_EVERY_MS = 100;
/** A larger file is read by a thread of its own: a smaller one is read sooner than that begins. */
const READ_APART_FROM_BYTES = 2 * 1024 * 1024;

// By itself the engine lets its heap grow to several times what lives in it before it collects: the analysis of a capture
// of gigabytes took 300 MB of which 40 lived. A heap that may grow by this share only costs no time that could be measured.
// The engine knows such a setting for the whole process alone: it holds for the server's own thread too.
setFlagsFromString('--heap-growing-percent=30');

if (parentPort === null) throw new Error('This file is a worker: the server starts it.');
const port = parentPort;
const { dataFolder, cancelFlag, turns: shared } = workerData as WorkerData;
const turns = new Turns(shared);
const connection = openConnection(dataFolder, true);
const flag = new Int32Array(cancelFlag);
const tell = (message: FromWorker): void => port.postMessage(message);

port.on('message', async (message: ToWorker) => {
  try {
    switch (message.type) {
      case 'import':
        await runImport(message.order);
        break;
      case 'unzip': {
        let count = 0;
        const members = await unzipCaptures(message.path, () => `${message.path}-${count++}`);
        tell({ type: 'unzipped', members });
        break;
      }
      case 'tidy':
        purgeDeleted(connection, message.deletedBefore, () => turns.giveWay());
        purgeTrials(connection, message.deletedBefore);
        purgeRuns(connection, message.deletedBefore);
        purgeRehearsals(connection, message.deletedBefore);
        reanalyseOutdated(connection);
        tell({ type: 'tidied' });
        break;
      case 'close':
        // What is being read is given up: nothing of it is kept.
        Atomics.store(flag, 0, 1);
        await importing;
        connection.sqlite.close();
        port.close();
        break;
      default:
        message satisfies never;
    }
  } catch (error) {
    tell({ type: 'failed', ...explain(error) });
  }
  if (message.type === 'import' || message.type === 'tidy') tryCheckpoint();
  if (message.type !== 'close' && message.type !== 'unzip') workLater();
});

/** What cannot be moved now, on a full disk mostly, is moved later: it is safe in the log. */
function tryCheckpoint(): void {
  try {
    checkpoint(connection);
  } catch (error) {
    tellFailure(error);
  }
}

function tellFailure(error: unknown): void {
  const cause = error instanceof Error ? (error.stack ?? error.message) : String(error);
  tell({ type: 'background-failed', cause });
}

let isWorking = false;
/** The import whose transaction is open: nothing else may write meanwhile. Never fails. */
let importing: Promise<unknown> | undefined;

/** Signs a little at a time while nothing else is asked for: a message is heard between two portions. */
function workLater(): void {
  if (isWorking) return;
  isWorking = true;
  const next = (): void => {
    if (importing === undefined && connection.sqlite.open && workSome()) {
      setImmediate(next);
      return;
    }
    isWorking = false;
    if (importing === undefined && connection.sqlite.open) tryCheckpoint();
  };
  setImmediate(next);
}

/** False where nothing is left to do. */
function workSome(): boolean {
  try {
    return signSome(connection);
  } catch (error) {
    // The database did not take it. Imports and finding go on; this is tried again behind the next of them, not at once:
    // a damaged database would be asked without end.
    tellFailure(error);
    return false;
  }
}

async function runImport(order: ImportOrder): Promise<void> {
  let toldAt = 0;
  const onProgress = (progress: ReadingProgress): void => {
    const now = Date.now();
    if (now - toldAt < PROGRESS_EVERY_MS) return;
    toldAt = now;
    tell({ type: 'progress', progress });
  };
  tell({ type: 'done', imported: await importWith(order, onProgress) });
}

async function importWith(order: ImportOrder, onProgress: (progress: ReadingProgress) => void): Promise<Imported> {
  if (order.fileBytes < READ_APART_FROM_BYTES) {
    return importFile(connection, order, (progress) => {
      onProgress(progress);
      return Atomics.load(flag, 0) === 0;
    });
  }
  const run = importApart(connection, order, cancelFlag, turns, onProgress);
  importing = run.catch(() => undefined);
  try {
    return await run;
  } finally {
    importing = undefined;
  }
}

function explain(error: unknown): Pick<Extract<FromWorker, { type: 'failed' }>, 'reason' | 'sentence' | 'advice'> {
  if (error instanceof HarError) return { reason: 'unreadable', ...wordHarProblem(error.problem) };
  if (error instanceof ImportCancelled) {
    return { reason: 'cancelled', sentence: error.message, advice: 'Drop the file again to import it.' };
  }
  const trouble = storageTrouble(join(dataFolder, DATABASE_FILE), error);
  if (trouble !== undefined) {
    const reason = trouble.kind === 'full' ? 'storage-full' : 'storage-unusable';
    return { reason, sentence: trouble.sentence, advice: `${trouble.advice} Nothing of the import was kept.` };
  }
  tellFailure(error);
  return {
    reason: 'internal',
    sentence: 'The capture could not be stored, through a fault of Trazado.',
    advice: 'Nothing was kept; its log has the cause.',
  };
}
