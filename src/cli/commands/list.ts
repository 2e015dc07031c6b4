import type { ExchangeRow } from '#core/analysis';
import { rowJson } from '#core/report';
import { formatBytes, formatMs } from '#core/wording';
import { type AnalysedFile, diagnoseFile, type Input } from '#server/capture-file';
import { withInput } from '../input';
import { type MaskOptions, maskFor } from '../masked';
import { layOutTable, printJson, printLines } from '../output';
import { findPages } from '../pages';
import { analyseFor, filterRows, readFilter } from '../where';

export async function list(
  file: string,
  options: MaskOptions & { json?: true; page?: string; where?: string },
): Promise<void> {
  const filter = readFilter(options.where ?? '');
  const { rows, end } = await withInput(file, (recorded) => {
    // What only bodies tell, such as who asked for whom, stands in the JSON alone.
    const read = (input: Input): AnalysedFile =>
      options.json === true ? diagnoseFile(input) : analyseFor(filter, input);
    const analysed = read(recorded);
    const passes = filterRows(filter, analysed, recorded);
    const { input, isMasked, end } = maskFor(recorded, options);
    // A filter asks for what was recorded; only what is printed is masked.
    const printed = isMasked ? read(input) : analysed;
    return { rows: ofPage(printed, options.page).filter(({ index }) => passes.has(index)), end };
  });
  if (options.json === true) printJson(rows.map(rowJson));
  else printLines(toText(rows));
  end();
}

function ofPage({ rows, overview }: AnalysedFile, page: string | undefined): readonly ExchangeRow[] {
  if (page === undefined) return rows;
  const wanted = new Set(findPages(overview, page).map(({ id }) => id));
  return rows.filter((row) => row.pageId !== undefined && wanted.has(row.pageId));
}

const RIGHT_ALIGNED = new Set([0, 1, 5, 6, 7]);

function toText(rows: readonly ExchangeRow[]): string[] {
  const head = ['#', 'start', 'status', 'kind', 'source', 'time', 'wire', 'body', 'request'];
  const body = rows.map((row) => [
    String(row.index),
    formatMs(row.startMs),
    row.status === undefined ? 'none' : String(row.status),
    row.kind,
    row.source,
    formatMs(row.timeMs),
    formatBytes(row.wireBytes),
    formatBytes(row.bodyBytes),
    `${row.method} ${row.url}`,
  ]);
  return layOutTable([head, ...body], RIGHT_ALIGNED);
}
