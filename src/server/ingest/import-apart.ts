import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { HarError } from '#core/har';
import { purge } from '../db/captures';
import type { Connection } from '../db/connection';
import { storageTrouble } from '../db/trouble';
import type { Turns } from '../db/turns';
import { findPackageRoot } from '../package-root';
import { CaptureWriter, importKnown } from './capture-writer';
import type { Imported, ImportOrder } from './import-order';
import { ImportCancelled, type ReadCapture, type ReadingProgress } from './read-capture';
import type { FromReader, ReaderData, ReadFailure } from './read-protocol';

/** Short-lived strings are most of what reading makes: a small nursery keeps the peak of its memory low. */
const NURSERY_MB = 16;

/** How often it looks whether others wait for the database. */
const LOOK_EVERY_MS = 20;

/**
 * Imports as `importFile` does, the file read by a thread of its own while this one writes. Nobody else may write through
 * the connection until it has ended; those that write through others are let in between. One that fails leaves nothing.
 * @param turns those that wait for the database
 */
export async function importApart(
  connection: Connection,
  order: ImportOrder,
  cancelFlag: SharedArrayBuffer,
  turns: Turns,
  onProgress: (progress: ReadingProgress) => void,
): Promise<Imported> {
  const { sqlite } = connection;
  let isInPortions = false;
  const letIn = (): void => {
    if (!turns.areWaited) return;
    sqlite.exec('commit');
    isInPortions = true;
    turns.giveWay();
    sqlite.exec('begin immediate');
  };
  sqlite.exec('begin immediate');
  try {
    const imported =
      importKnown(connection, order) ?? (await readAndWrite(connection, order, cancelFlag, letIn, onProgress));
    sqlite.exec('commit');
    return imported;
  } catch (error) {
    // SQLite ends some transactions by itself, as on a full disk.
    if (sqlite.inTransaction) sqlite.exec('rollback');
    if (isInPortions) tryPurge(connection, order.captureId);
    throw error;
  }
}

/** What cannot be removed now, on a full disk mostly, goes with the next tidying: nobody sees it till then. */
function tryPurge(connection: Connection, captureId: string): void {
  try {
    purge(connection, [captureId]);
  } catch (error) {
    if (storageTrouble(connection.sqlite.name, error) === undefined) throw error;
  }
}

async function readAndWrite(
  connection: Connection,
  order: ImportOrder,
  cancelFlag: SharedArrayBuffer,
  letIn: () => void,
  onProgress: (progress: ReadingProgress) => void,
): Promise<Imported> {
  const writer = new CaptureWriter(connection, order);
  const ahead = new SharedArrayBuffer(4);
  const workerData: ReaderData = { order, cancelFlag, ahead };
  const reader = new Worker(join(findPackageRoot(), 'dist/node/ingest-reader.js'), {
    workerData,
    // It is bundled: what this process was started with is not for it.
    execArgv: [],
    resourceLimits: { maxYoungGenerationSizeMb: NURSERY_MB },
  });
  let looking: NodeJS.Timeout | undefined;
  try {
    const read = await new Promise<ReadCapture>((resolve, reject) => {
      // By time, not by what was read: at the end the whole of it is analysed, and nothing comes for seconds.
      looking = setInterval(() => {
        try {
          letIn();
        } catch (error) {
          reject(error);
        }
      }, LOOK_EVERY_MS);
      reader.on('error', reject);
      reader.on('exit', () => reject(new Error('reading ended before its time')));
      reader.on('message', (message: FromReader) => {
        try {
          if (message.type === 'read') resolve(message.read);
          else hear(message, writer, ahead, onProgress);
        } catch (error) {
          reject(error);
        }
      });
    });
    return writer.end(read);
  } finally {
    clearInterval(looking);
    // With it goes all that reading took of memory.
    await reader.terminate();
  }
}

function hear(
  message: Exclude<FromReader, { type: 'read' }>,
  writer: CaptureWriter,
  ahead: SharedArrayBuffer,
  onProgress: (progress: ReadingProgress) => void,
): void {
  switch (message.type) {
    case 'page':
      writer.writePage(message.raw, message.place);
      return;
    case 'entries': {
      const { entries, bodies } = message;
      for (const { place, raw, body } of entries) {
        const bytes = body === undefined ? undefined : Buffer.from(bodies.buffer, body.at, body.length);
        writer.writeEntry({ place, raw, body: body && bytes && { form: body.form, bytes } });
      }
      const underWay = new Int32Array(ahead);
      Atomics.sub(underWay, 0, 1);
      Atomics.notify(underWay, 0);
      return;
    }
    case 'progress':
      onProgress(message.progress);
      return;
    case 'failed':
      throw errorOf(message.failure);
    default:
      message satisfies never;
  }
}

function errorOf(failure: ReadFailure): Error {
  switch (failure.type) {
    case 'har':
      return new HarError(failure.problem, failure.message);
    case 'cancelled':
      return new ImportCancelled();
    case 'other':
      return Object.assign(new Error(failure.message), { stack: failure.stack, code: failure.code });
    default:
      return failure satisfies never;
  }
}
