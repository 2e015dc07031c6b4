import { writeHar } from '#core/har';
import { type Input, readEntries, readToEnd } from '#server/capture-file';
import { writeAll } from '#server/write-pieces';
import { withInput } from '../input';
import { tell } from '../output';
import { refuseSame, writeWhole } from '../write-file';

/** Reads a capture and writes it again: first for what encloses the entries, then for the entries themselves. */
export async function save(file: string, out: string): Promise<void> {
  refuseSame(file, out);
  await withInput(file, async (input) => {
    const end = readToEnd(input);
    const pieces = writeHar(end.outline, {
      pages: end.rawPages.map((page) => JSON.stringify(page)),
      entries: entryTexts(input),
    });
    if (out === '-') writeAll(1, pieces);
    else await writeWhole(out, pieces);
    if (end.capture.completeness.type === 'cut') {
      tell(`The file is cut off at byte ${end.capture.completeness.atByte}; what was whole was saved.`);
    }
  });
}

function* entryTexts(input: Input): Generator<string> {
  for (const { value } of readEntries(input)) yield JSON.stringify(value);
}
