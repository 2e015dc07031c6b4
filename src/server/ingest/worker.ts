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
import { BackgroundDiagnosis } from './diagnose-some';
import { ImportCancelled, type ImportOrder, importFile } from './import-file';
import type { FromWorker, ToWorker, WorkerData } from './protocol';
import { reanalyseOutdated } from './reanalyse';
import { signSome } from './sign';
import { unzipCaptures } from './unpack';

// The thread that writes: imports, purges and analyses run here, so that the server's own thread keeps answering.

const PROGRESS_EVERY_MS = 100;

// By itself the engine lets its heap grow to several times what lives in it before it collects: the analysis of a capture
// of gigabytes took 300 MB of which 40 lived. A heap that may grow by this share only costs no time that could be measured.
// The engine knows such a setting for the whole process alone: it holds for the server's own thread too.
setFlagsFromString('--heap-growing-percent=30');

if (parentPort === null) throw new Error('This file is a worker: the server starts it.');
const port = parentPort;
const { dataFolder, cancelFlag } = workerData as WorkerData;
const connection = openConnection(dataFolder, true);
const flag = new Int32Array(cancelFlag);
const tell = (message: FromWorker): void => port.postMessage(message);

port.on('message', async (message: ToWorker) => {
  try {
    switch (message.type) {
      case 'import':
        runImport(message.order);
        break;
      case 'unzip': {
        let count = 0;
        const members = await unzipCaptures(message.path, () => `${message.path}-${count++}`);
        tell({ type: 'unzipped', members });
        break;
      }
      case 'tidy':
        purgeDeleted(connection, message.deletedBefore);
        purgeTrials(connection, message.deletedBefore);
        purgeRuns(connection, message.deletedBefore);
        purgeRehearsals(connection, message.deletedBefore);
        reanalyseOutdated(connection);
        tell({ type: 'tidied' });
        break;
      case 'hasten':
        diagnosis.hasten(message.captureId);
        break;
      case 'close':
        diagnosis.leave();
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
  tell({ type: 'background-failed', cause, trouble: storageTrouble(join(dataFolder, DATABASE_FILE), error) });
}

const diagnosis = new BackgroundDiagnosis(connection);
let isWorking = false;

/** Diagnoses and signs a little at a time while nothing else is asked for: a message is heard between two portions. */
function workLater(): void {
  if (isWorking) return;
  isWorking = true;
  const next = (): void => {
    if (connection.sqlite.open && workSome()) {
      setImmediate(next);
      return;
    }
    isWorking = false;
    if (connection.sqlite.open) tryCheckpoint();
  };
  setImmediate(next);
}

/** False where nothing is left to do. */
function workSome(): boolean {
  try {
    const step = diagnosis.step();
    if (typeof step === 'object') {
      tell({ type: 'diagnosed', captureId: step.diagnosed });
      if (step.problem !== undefined) tell({ type: 'background-failed', cause: step.problem, trouble: undefined });
    }
    if (step !== 'idle') return true;
    return signSome(connection);
  } catch (error) {
    // The database did not take it. Imports and finding go on; this is tried again behind the next of them, not at once:
    // a damaged database would be asked without end.
    tellFailure(error);
    return false;
  }
}

function runImport(order: ImportOrder): void {
  let toldAt = 0;
  const imported = importFile(connection, order, (progress) => {
    const now = Date.now();
    if (now - toldAt >= PROGRESS_EVERY_MS) {
      toldAt = now;
      tell({ type: 'progress', progress });
    }
    return Atomics.load(flag, 0) === 0;
  });
  tell({ type: 'done', imported });
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
