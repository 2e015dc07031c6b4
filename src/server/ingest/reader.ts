import { parentPort, workerData } from 'node:worker_threads';
import { HarError } from '#core/har';
import type { PreparedEntry } from '../db/entries';
import { ImportCancelled, readCapture } from './read-capture';
import type { BatchEntry, FromReader, ReaderData, ReadFailure } from './read-protocol';

// The thread that reads a large file, beside the one that writes what it read: on two cores an import takes as long as the
// slower of the two.

const BATCH_BYTES = 1024 * 1024;
/** Few enough that memory does not notice, so many that neither thread waits for the other's odd entry. */
const MOST_AHEAD = 6;
/** How often the reading looks whether it is to stop, where it waits. */
const LOOK_EVERY_MS = 200;

if (parentPort === null) throw new Error('This file is a worker: the ingest worker starts it.');
const port = parentPort;
const { order, cancelFlag, ahead } = workerData as ReaderData;
const flag = new Int32Array(cancelFlag);
const underWay = new Int32Array(ahead);
const tell = (message: FromReader, transfer: readonly ArrayBuffer[] = []): void => port.postMessage(message, transfer);

const isCancelled = (): boolean => Atomics.load(flag, 0) !== 0;

let batch: PreparedEntry[] = [];
let batchBytes = 0;

function add(entry: PreparedEntry): void {
  batch.push(entry);
  batchBytes += entry.raw.length + (entry.body?.bytes.length ?? 0);
  if (batchBytes >= BATCH_BYTES) flush();
}

function flush(): void {
  if (batch.length === 0) return;
  waitForWriter();
  const bodies = new Uint8Array(batch.reduce((sum, { body }) => sum + (body?.bytes.length ?? 0), 0));
  let at = 0;
  const entries = batch.map(({ place, raw, body }): BatchEntry => {
    if (body === undefined) return { place, raw, body };
    bodies.set(body.bytes, at);
    const placed = { form: body.form, at, length: body.bytes.length };
    at += body.bytes.length;
    return { place, raw, body: placed };
  });
  batch = [];
  batchBytes = 0;
  Atomics.add(underWay, 0, 1);
  tell({ type: 'entries', entries, bodies }, [bodies.buffer]);
}

function waitForWriter(): void {
  for (let count = Atomics.load(underWay, 0); count >= MOST_AHEAD; count = Atomics.load(underWay, 0)) {
    if (isCancelled()) throw new ImportCancelled();
    Atomics.wait(underWay, 0, count, LOOK_EVERY_MS);
  }
}

try {
  const read = readCapture(order, {
    onPage: (raw, place) => tell({ type: 'page', raw, place }),
    onEntry: add,
    goOn: (progress) => {
      tell({ type: 'progress', progress });
      return !isCancelled();
    },
  });
  flush();
  tell({ type: 'read', read });
} catch (error) {
  tell({ type: 'failed', failure: failureOf(error) });
}

function failureOf(error: unknown): ReadFailure {
  if (error instanceof HarError) return { type: 'har', problem: error.problem, message: error.message };
  if (error instanceof ImportCancelled) return { type: 'cancelled' };
  const { message, stack, code } = error as { message?: string; stack?: string; code?: unknown };
  return { type: 'other', message: message ?? String(error), stack, code };
}
