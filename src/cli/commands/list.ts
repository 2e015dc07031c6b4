import type { ExchangeRow } from '#core/analysis';
import {
  Columns,
  columnName,
  evaluateFilter,
  type Filter,
  fieldsOf,
  NamedCells,
  parseFilter,
  wordFilterProblem,
} from '#core/filter';
import { rowJson } from '#core/report';
import { formatBytes, formatMs } from '#core/wording';
import { TookTooLong, withinTime } from '#server/find/bounded';
import { type AnalysedFile, diagnoseFile, type Input, readExchanges, UsageError, withInput } from '../input';
import { layOutTable, printJson, printLines } from '../output';

export async function list(file: string, options: { json?: true; page?: string; where?: string }): Promise<void> {
  const filter = readFilter(options.where ?? '');
  const rows = await withInput(file, (input) => {
    const analysed = diagnoseFile(input);
    const passes = filterRows(filter, analysed, input);
    return ofPage(analysed, options.page).filter(({ index }) => passes.has(index));
  });
  if (options.json === true) printJson(rows.map(rowJson));
  else printLines(toText(rows));
}

function readFilter(text: string): Filter {
  const parsed = parseFilter(text);
  if (parsed.ok) return parsed.filter;
  const { from } = parsed.problem;
  throw new UsageError(`--where at character ${from + 1}: ${wordFilterProblem(parsed.problem)}`);
}

/** Numbers of the exchanges that a filter lets through. Headers, cookies and the next visit are read only where it asks for them. */
function filterRows(filter: Filter, { rows, overview }: AnalysedFile, input: Input): ReadonlySet<number> {
  const wanted = [
    ...new Set(
      fieldsOf(filter).flatMap((field) => ('key' in field && field.name !== 'query' ? columnName(field) : [])),
    ),
  ];
  const cells = new NamedCells(wanted, rows);
  if (wanted.length > 0) for (const exchange of readExchanges(input)) cells.add(exchange);
  const extra = cells.columns();
  const titles = new Map<string, string>(overview.pages.map(({ id, title }) => [id, title]));
  const mask = within(() => evaluateFilter(filter, new Columns(rows, titles, extra)));
  return new Set(rows.filter((_, at) => mask[at] === 1).map(({ index }) => index));
}

/** A regular expression that backtracks without end is broken off. */
function within<T>(run: () => T): T {
  try {
    return withinTime(FILTER_LIMIT_MS, run);
  } catch (error) {
    if (!(error instanceof TookTooLong)) throw error;
    throw new UsageError(`--where takes too long: ${error.message}. Make its regular expression simpler.`);
  }
}
const FILTER_LIMIT_MS = 4000;

/** Numbers of the exchanges of a file that a filter, as it was typed, lets through. */
export function filteredIndexes(input: Input, where: string): ReadonlySet<number> {
  return filterRows(readFilter(where), diagnoseFile(input), input);
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
