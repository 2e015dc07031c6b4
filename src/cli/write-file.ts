import { closeSync, openSync, renameSync, rmSync, writeSync } from 'node:fs';
import { whyNot } from '#server/why-not';
import { UsageError } from './input';

/**
 * Writes a file beside its place and moves it there when whole, so that a failure leaves an older file as it was.
 * @param check is given the path of the file before it is moved; where it throws, nothing is moved
 */
export async function writeChecked(
  out: string,
  pieces: Iterable<string>,
  check: (path: string) => void | Promise<void>,
): Promise<void> {
  const unfinished = `${out}.unfinished-${process.pid}`;
  let file: number;
  try {
    file = openSync(unfinished, 'w');
  } catch (error) {
    throw new UsageError(`${out} cannot be written: ${whyNot(error)}.`);
  }
  try {
    try {
      writeAll(file, pieces);
    } finally {
      closeSync(file);
    }
    await check(unfinished);
    renameSync(unfinished, out);
  } catch (error) {
    rmSync(unfinished, { force: true });
    throw error;
  }
}

/** Writes a file whole, or not at all. */
export const writeWhole = (out: string, pieces: Iterable<string>): Promise<void> =>
  writeChecked(out, pieces, () => undefined);

const FLUSH_AT_CHARS = 1_000_000;

/** Writes pieces to an open file, many at once. */
export function writeAll(file: number, pieces: Iterable<string>): void {
  let pending = '';
  for (const piece of pieces) {
    pending += piece;
    if (pending.length < FLUSH_AT_CHARS) continue;
    writeText(file, pending);
    pending = '';
  }
  writeText(file, pending);
}

function writeText(file: number, text: string): void {
  const bytes = Buffer.from(text);
  for (let at = 0; at < bytes.length; ) {
    try {
      at += writeSync(file, bytes, at);
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EAGAIN') throw error;
    }
  }
}
