import { existsSync } from 'node:fs';
import { loadOf, type ReadLoad } from '#server/load-of-file';
import { withInput } from './input';

/** "FILE#2" is the second page of a file; a file of that very name goes first. */
export function splitNamed(named: string): { readonly path: string; readonly number: number | undefined } {
  const [, path = named, number] = existsSync(named) ? [] : (/^(.*)#(\d{1,6})$/.exec(named) ?? []);
  return { path, number: number === undefined ? undefined : Number(number) };
}

/**
 * Reads a load: the first page of a file that has exchanges, or, of "FILE#2", the second one.
 * @throws UnreadableFile where there is no such page
 */
export async function readLoad(named: string): Promise<ReadLoad> {
  const { path, number } = splitNamed(named);
  return await withInput(path, (input) => loadOf(input, number, named));
}
