import {
  Columns,
  columnName,
  evaluateFilter,
  type Filter,
  fieldsOf,
  NamedCells,
  NOTE_COLUMN,
  needsBodies,
  parseFilter,
  wordFilterProblem,
} from '#core/filter';
import { member } from '#core/har';
import { type PackedTexts, packTexts } from '#core/wire';
import {
  type AnalysedFile,
  analyseFile,
  diagnoseFile,
  type Input,
  readEntries,
  readExchanges,
} from '#server/capture-file';
import { TookTooLong, withinTime } from '#server/find/bounded';
import { UsageError } from './input';

/** The filter of --where. @throws UsageError where the text is none */
export function readFilter(text: string): Filter {
  const parsed = parseFilter(text);
  if (parsed.ok) return parsed.filter;
  const { from } = parsed.problem;
  throw new UsageError(`--where at character ${from + 1}: ${wordFilterProblem(parsed.problem)}`);
}

/** Numbers of the exchanges that a filter lets through. Headers, cookies and the next visit are read only where it asks for them. */
export function filterRows(
  filter: Filter,
  { rows, overview }: Pick<AnalysedFile, 'rows' | 'overview'>,
  input: Input,
): ReadonlySet<number> {
  const wanted = [
    ...new Set(
      fieldsOf(filter).flatMap((field) => ('key' in field && field.name !== 'query' ? columnName(field) : [])),
    ),
  ];
  const cells = new NamedCells(wanted, rows);
  if (wanted.length > 0) for (const exchange of readExchanges(input)) cells.add(exchange);
  const extra = cells.columns();
  if (fieldsOf(filter).some((field) => field.name === 'note')) extra.set(NOTE_COLUMN, commentsOf(rows, input));
  const titles = new Map<string, string>(overview.pages.map(({ id, title }) => [id, title]));
  const mask = within(() => evaluateFilter(filter, new Columns(rows, titles, extra)));
  return new Set(rows.filter((_, at) => mask[at] === 1).map(({ index }) => index));
}

/** What a file says of its exchanges: HAR's own comments (HAR 1.2), which notes are saved as. */
function commentsOf(rows: AnalysedFile['rows'], input: Input): PackedTexts {
  const comments = new Map<number, string>();
  for (const { value, place } of readEntries(input)) {
    const comment = member(value, 'comment');
    if (typeof comment === 'string' && comment !== '') comments.set(place, comment);
  }
  return packTexts(rows.map(({ index }) => comments.get(index)));
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

/** The exchanges of a file as a filter needs them: bodies, which take most of the time, are read only where it asks for what they tell. */
export const analyseFor = (filter: Filter, input: Input): AnalysedFile =>
  needsBodies(filter) ? diagnoseFile(input) : analyseFile(input);

/** Numbers of the exchanges of a file that a filter, as it was typed, lets through. */
export function filteredIndexes(input: Input, where: string): ReadonlySet<number> {
  const filter = readFilter(where);
  return filterRows(filter, analyseFor(filter, input), input);
}
