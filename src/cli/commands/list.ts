import type { ExchangeRow } from '#core/analysis';
import { formatBytes, formatMs } from '#core/wording';
import { type AnalysedFile, analyseFile, UsageError, withInput } from '../input';
import { layOutTable, print, printJson } from '../output';

export function list(file: string, options: { json?: true; page?: string }): void {
  const analysed = withInput(file, analyseFile);
  const rows = ofPage(analysed, options.page);
  if (options.json === true) printJson(rows.map(rowJson));
  else print(toText(rows));
}

function ofPage({ rows, overview }: AnalysedFile, page: string | undefined): readonly ExchangeRow[] {
  if (page === undefined) return rows;
  // A recorded page that was taken apart into navigations can still be asked for as a whole.
  const wanted = new Set(overview.pages.map(({ id }) => id).filter((id) => id === page || id.startsWith(`${page}#`)));
  if (wanted.size === 0) {
    const ids = overview.pages.map(({ id }) => id).join(', ');
    throw new UsageError(`There is no page "${page}"; the capture has ${ids === '' ? 'none' : ids}.`);
  }
  return rows.filter((row) => row.pageId !== undefined && wanted.has(row.pageId));
}

/** One exchange in the shape that `list --json` prints. */
export function rowJson(row: ExchangeRow): unknown {
  const { index, pageId, method, url, host, status, kind, source, sourceEvidence, party } = row;
  const { startMs, timeMs, phases, wireBytes, bodyBytes, mimeType, failure } = row;
  const identity = { index, page: pageId, method, url, host, status, kind, source, sourceEvidence, party };
  const measures = { startMs, timeMs, phases, wireBytes, bodyBytes, mimeType };
  return { ...identity, ...measures, failed: failure !== undefined, failure };
}

const RIGHT_ALIGNED = new Set([0, 1, 5, 6, 7]);

function toText(rows: readonly ExchangeRow[]): string {
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
