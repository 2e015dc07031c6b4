import { closeSync, mkdtempSync, openSync, readSync, rmSync, statSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Exchange } from '#core/model';
import { fileChunks, type Input, readable, readExchanges } from '#server/capture-file';
import { isZip, unzipCaptures } from '#server/ingest/unpack';

/** A mistake of the user's or unreadable input: told in one line on stderr, exit status 2. */
export class UsageError extends Error {}

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
