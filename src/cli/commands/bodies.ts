import { mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Exchange } from '#core/model';
import { formatBytes, formatCount, formatPlural } from '#core/wording';
import { readExchanges } from '#server/capture-file';
import { bodyFiles } from '#server/hand-off/body-files';
import { whyNot } from '#server/why-not';
import { UsageError, withInput } from '../input';
import { layOutTable, printJson, printLines, tell } from '../output';
import { filteredIndexes } from '../where';

interface BodiesOptions {
  readonly out: string;
  readonly where?: string;
  readonly json?: true;
}

interface Written {
  readonly index: number;
  readonly url: string;
  readonly path: string;
  readonly bodyBytes: number;
}

/** Writes the bodies of a capture's responses into a folder, one file for identical bodies of one address. */
export async function bodies(file: string, { out, where, json }: BodiesOptions): Promise<void> {
  const written: Written[] = [];
  const counts = { files: 0, withoutBody: 0, empty: 0 };
  await withInput(file, (input) => {
    const chosen = where === undefined ? undefined : filteredIndexes(input, where);
    if (chosen?.size === 0) throw new UsageError('--where lets no exchange through: there is nothing to write.');
    readyFolder(out);
    for (const file of bodyFiles(chosenOf(readExchanges(input), chosen))) {
      if (file === 'none') counts.withoutBody++;
      else if (file === 'empty') counts.empty++;
      else {
        const { index, url, path, bytes, isNew } = file;
        if (isNew) writeBody(out, path, bytes);
        counts.files += isNew ? 1 : 0;
        written.push({ index, url, path, bodyBytes: bytes.length });
      }
    }
  });
  if (json === true) printJson(written);
  else printLines(layOutTable(written.map(rowOf), new Set([0, 1])));
  tell(
    `${formatPlural(written.length, 'body', 'bodies')} written to ${formatPlural(counts.files, 'file')} in ${out}; ` +
      `${formatCount(counts.empty)} empty, ${formatCount(counts.withoutBody)} not recorded.`,
  );
}

function* chosenOf(exchanges: Iterable<Exchange>, chosen: ReadonlySet<number> | undefined): Generator<Exchange> {
  for (const exchange of exchanges) if (chosen === undefined || chosen.has(exchange.index)) yield exchange;
}

const rowOf = ({ index, path, bodyBytes }: Written): string[] => [`#${index}`, formatBytes(bodyBytes), path];

/** A new folder, or an empty one: nothing is written over, and nothing is followed out of it. */
function readyFolder(folder: string): void {
  let names: readonly string[];
  try {
    mkdirSync(folder, { recursive: true });
    names = readdirSync(folder);
  } catch (error) {
    throw new UsageError(`${folder} cannot be written into: ${whyNot(error)}.`);
  }
  if (names.length > 0) throw new UsageError(`${folder} is not empty; name a new folder for --out.`);
}

function writeBody(folder: string, path: string, bytes: Uint8Array): void {
  const full = join(folder, path);
  try {
    mkdirSync(dirname(full), { recursive: true });
    writeFileSync(full, bytes, { flag: 'wx' });
  } catch (error) {
    throw new UsageError(`${full} cannot be written: ${whyNot(error)}.`);
  }
}
