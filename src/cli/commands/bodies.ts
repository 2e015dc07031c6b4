import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { BodyPaths, bodyAsSent } from '#core/content';
import { findResponse } from '#core/model';
import { formatBytes, formatCount, formatPlural } from '#core/wording';
import { readExchanges } from '#server/capture-file';
import { inflateWithZlib } from '#server/inflate';
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
    const paths = new BodyPaths();
    readyFolder(out);
    for (const exchange of readExchanges(input)) {
      const { index, request } = exchange;
      if (chosen !== undefined && !chosen.has(index)) continue;
      const response = findResponse(exchange);
      const bytes = response === undefined ? undefined : bodyAsSent(response, inflateWithZlib);
      if (response === undefined || bytes === undefined) counts.withoutBody++;
      else if (bytes.length === 0) counts.empty++;
      else {
        const digest = createHash('sha256').update(bytes).digest('base64');
        const disposition = response.headers.find(({ name }) => /^content-disposition$/i.test(name))?.value;
        const of = { index, url: request.url, mimeType: response.mimeType, disposition, digest };
        const { path, isNew } = paths.take(of);
        if (isNew) writeBody(out, path, bytes);
        counts.files += isNew ? 1 : 0;
        written.push({ index, url: request.url, path, bodyBytes: bytes.length });
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
