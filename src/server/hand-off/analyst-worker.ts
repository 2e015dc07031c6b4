import { parentPort } from 'node:worker_threads';
import { KnownBodies } from '#core/links';
import { packRows } from '#core/wire';
import { diagnoseFile } from '../capture-file';
import type { FromAnalyst, ToAnalyst } from './analyst-protocol';

// The thread that analyses what was recorded and what leaves, while the one that makes what leaves goes on.

if (parentPort === null) throw new Error('This file is a worker: what makes a hand-off starts it.');
const port = parentPort;

/** What leaves has nearly all bodies of what was recorded. */
const known = new KnownBodies();

port.on('message', ({ question, input }: ToAnalyst) => {
  const { rows, overview, found } = diagnoseFile(input, undefined, known);
  const packed = packRows(rows);
  port.postMessage({ question, rows: packed, overview, found } satisfies FromAnalyst, [packed.buffer]);
});
