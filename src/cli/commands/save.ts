import { closeSync, openSync, renameSync, rmSync, writeSync } from 'node:fs';
import { type HarEnd, writeHar } from '#core/har';
import { whyNot } from '#server/why-not';
import { type Input, readEntries, UsageError, withInput } from '../input';
import { tell } from '../output';

/** Reads a capture and writes it again: first for what encloses the entries, then for the entries themselves. */
export async function save(file: string, out: string): Promise<void> {
  await withInput(file, (input) => {
    const end = readToEnd(input);
    const pieces = writeHar(end.outline, {
      pages: end.rawPages.map((page) => JSON.stringify(page)),
      entries: entryTexts(input),
    });
    if (out === '-') writeAll(1, pieces);
    else writeFile(out, pieces);
    if (end.capture.completeness.type === 'cut') {
      tell(`The file is cut off at byte ${end.capture.completeness.atByte}; what was whole was saved.`);
    }
  });
}

function readToEnd(input: Input): HarEnd {
  const entries = readEntries(input);
  for (;;) {
    const next = entries.next();
    if (next.done === true) return next.value;
  }
}

function* entryTexts(input: Input): Generator<string> {
  for (const { value } of readEntries(input)) yield JSON.stringify(value);
}

/** Written beside its place and moved there when whole, so that a failure leaves an older file as it was. */
function writeFile(out: string, pieces: Iterable<string>): void {
  const unfinished = `${out}.unfinished-${process.pid}`;
  let file: number;
  try {
    file = openSync(unfinished, 'w');
  } catch (error) {
    throw new UsageError(`${out} cannot be written: ${whyNot(error)}.`);
  }
  try {
    writeAll(file, pieces);
    closeSync(file);
    renameSync(unfinished, out);
  } catch (error) {
    rmSync(unfinished, { force: true });
    throw error;
  }
}

const FLUSH_AT_CHARS = 1_000_000;

function writeAll(file: number, pieces: Iterable<string>): void {
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
