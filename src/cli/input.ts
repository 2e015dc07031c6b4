import { closeSync, mkdtempSync, openSync, readSync, rmSync, statSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { analyse, type CaptureOverview, type ExchangeFacts, type ExchangeRow, takeFacts } from '#core/analysis';
import type { Diagnosis } from '#core/diagnose';
import { type HarEnd, HarError, HarReader, isObject, type Json, type JsonObject, normaliseEntry } from '#core/har';
import type { Exchange } from '#core/model';
import { beginReading } from '#server/diagnose';
import { type ArchiveDamage, gunzipped, isZip, readChunks, unzipCaptures } from '#server/ingest/unpack';
import { whyNot } from '#server/why-not';

/** A mistake of the user's or unreadable input: told in one line on stderr, exit status 2. */
export class UsageError extends Error {}

/** A capture to read, as often as is needed. */
export interface Input {
  readonly path: string;
  /** What it is called in errors: the file that the user named, or standard input. */
  readonly shown: string;
  /** What was wrong with the zip that it came in. */
  readonly damage: ArchiveDamage | undefined;
  /** What is done to each entry before anything reads it. */
  readonly change?: (entry: Json) => Json;
}

const STDIN = 'standard input';

/**
 * Runs over an input that may be read more than once. "-" is standard input, which like any other pipe is copied to a file
 * first; a zip gives the one capture in it.
 */
export async function withInput<T>(file: string, run: (input: Input) => T | Promise<T>): Promise<T> {
  const isStdin = file === '-';
  const shown = isStdin ? STDIN : file;
  const isPipe = isStdin || isNoFile(file);
  if (!isPipe && !startsAsZip(file, shown)) return run({ path: file, shown, damage: undefined });
  const folder = mkdtempSync(join(tmpdir(), 'trazado-'));
  try {
    const copy = isPipe ? join(folder, 'input') : file;
    if (isPipe) copyTo(copy, isStdin ? stdinChunks() : fileChunks(file, shown));
    if (!startsAsZip(copy, shown)) return await run({ path: copy, shown, damage: undefined });
    return await run(await unzipOne(copy, shown, folder));
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** True for a pipe, which can be read but once; devices, which never end, are refused. */
function isNoFile(path: string): boolean {
  const stat = statSync(path, { throwIfNoEntry: false });
  if (stat?.isCharacterDevice() === true && !/^\/dev\/(?:stdin|fd\/\d+)$/.test(path)) {
    throw new UsageError(`${path} cannot be read: it is a device, not a file.`);
  }
  return stat !== undefined && !stat.isFile() && !stat.isDirectory();
}

function copyTo(copy: string, chunks: Iterable<Uint8Array>): void {
  const file = openSync(copy, 'w');
  try {
    for (const chunk of chunks) writeSync(file, chunk);
  } finally {
    closeSync(file);
  }
}

function startsAsZip(path: string, shown: string): boolean {
  for (const chunk of fileChunks(path, shown)) return isZip(chunk);
  return false;
}

async function unzipOne(zip: string, shown: string, folder: string): Promise<Input> {
  let count = 0;
  const members = await unzipCaptures(zip, () => join(folder, `member-${count++}`)).catch((error: unknown) => {
    throw readable(shown, error);
  });
  const [only] = members;
  if (only !== undefined && members.length === 1) return { path: only.path, shown, damage: only.damage };
  const names = members.map(({ name }) => name).join(', ');
  throw new UsageError(`${shown} contains ${members.length} captures: unpack it and name one of ${names}.`);
}

/** Runs what may find the input unreadable; that is the user's to know in one line. */
function told<T>(shown: string, run: () => T): T {
  try {
    return run();
  } catch (error) {
    throw readable(shown, error);
  }
}

const readable = (shown: string, error: unknown): unknown =>
  error instanceof HarError ? new UsageError(`${shown}: ${error.message}`) : error;

function* fileChunks(path: string, shown: string): Generator<Uint8Array> {
  try {
    yield* readChunks(path);
  } catch (error) {
    const { code, syscall } = error as NodeJS.ErrnoException;
    if (code === undefined || syscall === undefined) throw error;
    const why = whyNot(error);
    throw new UsageError(`${shown} cannot be ${syscall === 'open' ? 'opened' : 'read'}: ${why}.`);
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
export function* readEntries({
  path,
  shown,
  damage,
  change,
}: Input): Generator<{ readonly value: Json; readonly place: number }, HarEnd> {
  const ready: { value: Json; place: number }[] = [];
  const reader = new HarReader({
    onEntry: ({ value, place }) => ready.push({ value: change === undefined ? value : change(value), place }),
  });
  let found = damage;
  const chunks = gunzipped(fileChunks(path, shown), (inGzip) => {
    found = inGzip;
  });
  for (;;) {
    const next = told(shown, () => chunks.next());
    if (next.done === true) break;
    told(shown, () => reader.push(next.value));
    yield* ready.splice(0);
  }
  const end = told(shown, () => reader.end(found));
  yield* ready.splice(0);
  return end;
}

export interface AnalysedFile {
  readonly rows: readonly ExchangeRow[];
  readonly overview: CaptureOverview;
  readonly end: HarEnd;
}

/** Reads and analyses a file; its bodies are let go of as it is read. */
export function analyseFile(input: Input): AnalysedFile {
  const facts: ExchangeFacts[] = [];
  const entries = readEntries(input);
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

/**
 * Reads a file with its bodies too: who names whom, and what the rules find.
 * @param onExchange is given each exchange while it is at hand
 */
export function diagnoseFile(
  input: Input,
  onExchange: (exchange: Exchange) => void = () => undefined,
): Diagnosis & { readonly end: HarEnd } {
  const { rows, end } = analyseFile(input);
  const diagnoser = beginReading(rows);
  for (const exchange of readExchanges(input)) {
    diagnoser.add(exchange);
    onExchange(exchange);
  }
  const { pages, completeness } = end.capture;
  return { ...diagnoser.end(pages, completeness), end };
}

/** Every exchange of a file, one at a time. */
export function* readExchanges(input: Input): Generator<Exchange> {
  for (const { value, place } of readEntries(input))
    if (isObject(value)) yield normaliseEntry(value as JsonObject, place);
}

/** The exchange at a place of `log.entries`; a UsageError where there is none. */
export function getExchange(input: Input, placeText: string): Exchange {
  const place = Number(placeText);
  if (!Number.isInteger(place) || place < 0)
    throw new UsageError(`"${placeText}" is not an exchange's number, 0 or more.`);
  let count = 0;
  for (const exchange of readExchanges(input)) {
    if (exchange.index === place) return exchange;
    count = exchange.index + 1;
  }
  throw new UsageError(`There is no exchange ${place}: the capture's exchanges are numbered 0 to ${count - 1}.`);
}
