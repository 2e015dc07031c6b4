import { closeSync, mkdtempSync, openSync, readSync, rmSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { analyse, type CaptureOverview, type ExchangeFacts, type ExchangeRow, takeFacts } from '#core/analysis';
import { type HarEnd, HarError, HarReader, isObject, type Json, type JsonObject, normaliseEntry } from '#core/har';
import type { Exchange } from '#core/model';

/** A mistake of the user's or unreadable input: told in one line on stderr, exit status 2. */
export class UsageError extends Error {}

const CHUNK_BYTES = 1024 * 1024;

/** Runs over an input that may be read more than once; "-" is standard input, kept in a file for the time. */
export function withInput<T>(path: string, run: (path: string) => T): T {
  if (path !== '-') return run(path);
  const folder = mkdtempSync(join(tmpdir(), 'trazado-'));
  const copy = join(folder, 'input.har');
  try {
    const file = openSync(copy, 'w');
    for (const chunk of chunksOf('-')) writeSync(file, chunk);
    closeSync(file);
    return run(copy);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

function* chunksOf(path: string): Generator<Buffer> {
  let file: number;
  try {
    file = path === '-' ? 0 : openSync(path, 'r');
  } catch (error) {
    throw new UsageError(`${path} cannot be opened: ${(error as NodeJS.ErrnoException).code ?? error}.`);
  }
  try {
    for (;;) {
      const chunk = Buffer.allocUnsafe(CHUNK_BYTES);
      const length = readChunk(file, chunk, path);
      if (length === 0) return;
      yield chunk.subarray(0, length);
    }
  } finally {
    if (file !== 0) closeSync(file);
  }
}

/** A pipe that has nothing yet says EAGAIN: the read is tried again. */
function readChunk(file: number, chunk: Buffer, path: string): number {
  for (;;) {
    try {
      return readSync(file, chunk, 0, CHUNK_BYTES, null);
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      if (code === 'EAGAIN') continue;
      if (code === 'EOF') return 0;
      throw new UsageError(`${path} cannot be read: ${code ?? error}.`);
    }
  }
}

/** The entries of a file, one at a time; the generator returns what the reading ended with. */
export function* readEntries(path: string): Generator<{ readonly value: Json; readonly place: number }, HarEnd> {
  const ready: { value: Json; place: number }[] = [];
  const reader = new HarReader({ onEntry: (entry) => ready.push(entry) });
  try {
    for (const chunk of chunksOf(path)) {
      reader.push(chunk);
      yield* ready.splice(0);
    }
    return reader.end();
  } catch (error) {
    if (error instanceof HarError) throw new UsageError(`${path === '-' ? 'standard input' : path}: ${error.message}`);
    throw error;
  }
}

export interface AnalysedFile {
  readonly rows: readonly ExchangeRow[];
  readonly overview: CaptureOverview;
  readonly end: HarEnd;
}

/** Reads and analyses a file; its bodies are let go of as it is read. */
export function analyseFile(path: string): AnalysedFile {
  const facts: ExchangeFacts[] = [];
  const entries = readEntries(path);
  for (;;) {
    const next = entries.next();
    if (next.done === true) {
      const { pages, completeness } = next.value.capture;
      return { ...analyse(facts, pages, completeness), end: next.value };
    }
    const { value, place } = next.value;
    if (isObject(value)) facts.push(takeFacts(normaliseEntry(value, place)));
  }
}

/** Every exchange of a file, one at a time. */
export function* readExchanges(path: string): Generator<Exchange> {
  for (const { value, place } of readEntries(path))
    if (isObject(value)) yield normaliseEntry(value as JsonObject, place);
}

/** The exchange at a place of `log.entries`; a UsageError where there is none. */
export function getExchange(path: string, placeText: string): Exchange {
  const place = Number(placeText);
  if (!Number.isInteger(place) || place < 0)
    throw new UsageError(`"${placeText}" is not an exchange's number, 0 or more.`);
  let count = 0;
  for (const exchange of readExchanges(path)) {
    if (exchange.index === place) return exchange;
    count = exchange.index + 1;
  }
  throw new UsageError(`There is no exchange ${place}: the capture's exchanges are numbered 0 to ${count - 1}.`);
}
