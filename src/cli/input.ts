import { closeSync, mkdtempSync, openSync, readSync, rmSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { analyse, type CaptureOverview, type ExchangeFacts, type ExchangeRow, takeFacts } from '#core/analysis';
import { type HarEnd, HarError, HarReader, isObject, type Json, type JsonObject, normaliseEntry } from '#core/har';
import type { Exchange } from '#core/model';
import { Diagnoser, type Diagnosis } from '#server/diagnose';
import { gunzipped, isZip, readChunks, unzipCaptures } from '#server/ingest/unpack';

/** A mistake of the user's or unreadable input: told in one line on stderr, exit status 2. */
export class UsageError extends Error {}

/** Runs over an input that may be read more than once. "-" is standard input; a zip gives the one capture in it. */
export function withInput<T>(path: string, run: (path: string) => T): T {
  const isStdin = path === '-';
  if (!isStdin && !startsAsZip(path)) return run(path);
  const folder = mkdtempSync(join(tmpdir(), 'trazado-'));
  try {
    const copy = isStdin ? join(folder, 'input') : path;
    if (isStdin) copyStdin(copy);
    return run(startsAsZip(copy) ? unzipOne(copy, path, folder) : copy);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

function copyStdin(copy: string): void {
  const file = openSync(copy, 'w');
  for (const chunk of stdinChunks()) writeSync(file, chunk);
  closeSync(file);
}

function startsAsZip(path: string): boolean {
  for (const chunk of fileChunks(path)) return isZip(chunk);
  return false;
}

function unzipOne(zip: string, shown: string, folder: string): string {
  let count = 0;
  const members = told(shown, () => unzipCaptures(fileChunks(zip), () => join(folder, `member-${count++}`)));
  const [only] = members;
  if (only !== undefined && members.length === 1) return only.path;
  const names = members.map(({ name }) => name).join(', ');
  throw new UsageError(`${shown} holds ${members.length} captures: unpack it and name one of ${names}.`);
}

/** Runs what may find the input unreadable; that is the user's to know in one line. */
function told<T>(path: string, run: () => T): T {
  try {
    return run();
  } catch (error) {
    if (error instanceof HarError) throw new UsageError(`${path === '-' ? 'standard input' : path}: ${error.message}`);
    throw error;
  }
}

const WHY: Readonly<Record<string, string>> = {
  ENOENT: 'there is no such file',
  EACCES: 'it is not yours to use',
  EPERM: 'it is not yours to use',
  EISDIR: 'it is a folder',
  ENOTDIR: 'a part of its path is no folder',
  ENOSPC: 'the disk is full',
  EROFS: 'the disk may only be read',
};

/** Why a file could not be used, in the words of whoever has to see to it; else by the system's own name for it. */
export function whyNot(error: unknown): string {
  const { code } = error as NodeJS.ErrnoException;
  return code === undefined ? String(error) : (WHY[code] ?? code);
}

function* fileChunks(path: string): Generator<Uint8Array> {
  try {
    yield* readChunks(path);
  } catch (error) {
    const { code, syscall } = error as NodeJS.ErrnoException;
    if (code === undefined || syscall === undefined) throw error;
    const why = whyNot(error);
    throw new UsageError(`${path} cannot be ${syscall === 'open' ? 'opened' : 'read'}: ${why}.`);
  }
}

const CHUNK_BYTES = 1024 * 1024;

function* stdinChunks(): Generator<Uint8Array> {
  for (;;) {
    const chunk = Buffer.allocUnsafe(CHUNK_BYTES);
    const length = readStdin(chunk);
    if (length === 0) return;
    yield chunk.subarray(0, length);
  }
}

/** A pipe that has nothing yet says EAGAIN: the read is tried again. */
function readStdin(chunk: Buffer): number {
  for (;;) {
    try {
      return readSync(0, chunk, 0, CHUNK_BYTES, null);
    } catch (error) {
      const { code } = error as NodeJS.ErrnoException;
      if (code === 'EOF') return 0;
      if (code !== 'EAGAIN') throw new UsageError(`standard input cannot be read: ${code ?? error}.`);
    }
  }
}

/** The entries of a file, one at a time; the generator returns what the reading ended with. */
export function* readEntries(path: string): Generator<{ readonly value: Json; readonly place: number }, HarEnd> {
  const ready: { value: Json; place: number }[] = [];
  const reader = new HarReader({ onEntry: (entry) => ready.push(entry) });
  const chunks = gunzipped(fileChunks(path));
  for (;;) {
    const next = told(path, () => chunks.next());
    if (next.done === true) break;
    told(path, () => reader.push(next.value));
    yield* ready.splice(0);
  }
  const end = told(path, () => reader.end());
  yield* ready.splice(0);
  return end;
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

/** Reads a file with its bodies too: who names whom, and what the rules find. */
export function diagnoseFile(path: string): Diagnosis & { readonly end: HarEnd } {
  const { rows, end } = analyseFile(path);
  const diagnoser = new Diagnoser(rows);
  for (const exchange of readExchanges(path)) diagnoser.add(exchange);
  const { pages, completeness } = end.capture;
  return { ...diagnoser.end(pages, completeness), end };
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
