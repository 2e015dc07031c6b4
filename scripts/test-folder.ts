import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** Gives all tests one folder for what they leave behind, and removes it when they are through. */
export default function (): () => void {
  const folder = mkdtempSync(join(tmpdir(), 'trazado-tests-'));
  process.env['TMPDIR'] = folder;
  return () => rmSync(folder, { recursive: true, force: true });
}
