import { closeSync, openSync, renameSync, rmSync, statSync } from 'node:fs';
import { whyNot } from '#server/why-not';
import { writeAll } from '#server/write-pieces';
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

/** The capture itself is not written over: what is taken out of it, or cannot be read, would be gone. @throws UsageError */
export function refuseSame(file: string, out: string): void {
  const [read, written] = [placeOf(file), placeOf(out)];
  if (read !== undefined && written !== undefined && read.dev === written.dev && read.ino === written.ino)
    throw new UsageError(`${out} is the capture itself: name another file to write.`);
}

/** Where a file lies on its disk; undefined for a pipe, and for what is not there or cannot be reached: that is told where it is used. */
function placeOf(path: string): { readonly dev: number; readonly ino: number } | undefined {
  if (path === '-') return undefined;
  try {
    return statSync(path);
  } catch {
    return undefined;
  }
}

/** Writes a file whole, or not at all. */
export const writeWhole = (out: string, pieces: Iterable<string>): Promise<void> =>
  writeChecked(out, pieces, () => undefined);
