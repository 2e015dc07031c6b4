import { join } from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import { DATABASE_FILE, openConnection } from '../db/connection';
import { storageTrouble } from '../db/trouble';
import { BackgroundDiagnosis } from './diagnose-some';
import type { DiagnosisData, FromDiagnosis, ToDiagnosis } from './diagnosis-protocol';

// The thread that reads bodies behind the imports. It ends where nothing is left to do: with it goes what it took of memory.

/** An import that is written holds the database as long as it takes; what was found meanwhile waits for it. */
const BUSY_MS = 30 * 60_000;
/** How often it looks whether imports are over. */
const LOOK_EVERY_MS = 100;

if (parentPort === null) throw new Error('This file is a worker: the server starts it.');
const port = parentPort;
const { dataFolder, pause } = workerData as DiagnosisData;
const connection = openConnection(dataFolder, true, BUSY_MS);
const paused = new Int32Array(pause);
const tell = (message: FromDiagnosis): void => port.postMessage(message);
const diagnosis = new BackgroundDiagnosis(connection);
let isWorking = false;

port.on('message', (message: ToDiagnosis) => {
  switch (message.type) {
    case 'look':
      break;
    case 'hasten':
      guarded(() => diagnosis.hasten(message.captureId));
      break;
    case 'close':
      guarded(() => diagnosis.leave());
      connection.sqlite.close();
      port.close();
      return;
    default:
      message satisfies never;
  }
  workLater();
});

/** A little at a time: a message is heard between two portions. */
function workLater(): void {
  if (isWorking) return;
  isWorking = true;
  const next = (): void => {
    if (connection.sqlite.open && workSome()) {
      if (Atomics.load(paused, 0) === 0) setImmediate(next);
      else setTimeout(next, LOOK_EVERY_MS);
      return;
    }
    isWorking = false;
    tell({ type: 'idle' });
  };
  setImmediate(next);
}

/** False where nothing is left to do, or the database does not take it: that is tried again behind the next import. */
function workSome(): boolean {
  if (Atomics.load(paused, 0) !== 0) return true;
  return guarded(() => {
    const step = diagnosis.step();
    if (typeof step === 'object') {
      tell({ type: 'diagnosed', captureId: step.diagnosed });
      if (step.problem !== undefined) tell({ type: 'failed', cause: step.problem, trouble: undefined });
    }
    return step !== 'idle';
  });
}

function guarded(run: () => unknown): boolean {
  try {
    return run() === true;
  } catch (error) {
    const cause = error instanceof Error ? (error.stack ?? error.message) : String(error);
    tell({ type: 'failed', cause, trouble: storageTrouble(join(dataFolder, DATABASE_FILE), error) });
    return false;
  }
}
