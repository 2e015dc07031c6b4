import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const NAME = 'trazado-tests-';

/** Gives all tests one folder for what they leave behind, and removes it when they are through. */
export default function (): (() => void) | undefined {
  // Each project of tests asks for it: a folder in the first one's would have paths too long for a browser's socket.
  if (process.env['TMPDIR']?.includes(NAME) === true) return undefined;
  const folder = mkdtempSync(join(tmpdir(), NAME));
  process.env['TMPDIR'] = folder;
  return () => rmSync(folder, { recursive: true, force: true });
}
