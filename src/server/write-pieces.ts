import { closeSync, openSync, writeSync } from 'node:fs';

const FLUSH_AT_CHARS = 1_000_000;

/** Writes a file that only its owner reads, in pieces, many at once. */
export function writePieces(path: string, pieces: Iterable<string>): void {
  const file = openSync(path, 'w', 0o600);
  try {
    writeAll(file, pieces);
  } finally {
    closeSync(file);
  }
}

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
