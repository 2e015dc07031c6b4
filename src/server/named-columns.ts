import { setImmediate } from 'node:timers/promises';
import { type KnownName, NameCounter, NamedCells } from '#core/filter';
import { isObject, normaliseEntry } from '#core/har';
import type { Exchange } from '#core/model';
import type { PackedTexts } from '#core/wire';
import { readRows } from './db/captures';
import type { Connection } from './db/connection';
import { readEntryHeads } from './db/entries';

/** How long entries are read before other requests are answered. */
const SLICE_MS = 15;

/** The values of headers, cookies and next visits for every exchange of a capture, in the order of its rows. */
export async function readNamedColumns(
  connection: Connection,
  captureId: string,
  names: readonly string[],
): Promise<Record<string, PackedTexts>> {
  const cells = new NamedCells(names, readRows(connection, captureId));
  await eachExchange(connection, captureId, (exchange) => cells.add(exchange));
  return Object.fromEntries(cells.columns());
}

/** The headers and cookies that a capture has, with the number of exchanges that have each. */
export async function readKnownNames(connection: Connection, captureId: string): Promise<KnownName[]> {
  const counter = new NameCounter();
  await eachExchange(connection, captureId, (exchange) => counter.add(exchange));
  return counter.names();
}

/** Runs over the exchanges of a capture, without bodies, letting other requests be answered in between. */
export async function eachExchange(
  connection: Connection,
  captureId: string,
  run: (exchange: Exchange) => void,
): Promise<void> {
  let since = performance.now();
  for (const { value, place } of readEntryHeads(connection, captureId)) {
    if (isObject(value)) run(normaliseEntry(value, place));
    if (performance.now() - since < SLICE_MS) continue;
    await setImmediate();
    since = performance.now();
  }
}
