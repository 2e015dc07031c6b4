import { decodeText, readBody } from '#core/content';
import { FIRST_LOOP, type LoopFields, suggestLoop } from '#core/convert';
import { findResponse } from '#core/model';
import {
  countRepeated,
  type GatheredRow,
  rowsAsCsv,
  rowsAsJson,
  rowsAsLines,
  Series,
  type TableChoice,
  typedColumn,
} from '#core/series';
import { formatPlural } from '#core/wording';
import { inflateWithZlib } from '#server/inflate';
import { loopOf, runSeries } from '#server/runs/series';
import { UsageError } from '../input';
import { print, printJson, tell } from '../output';
import { type RunOptions, readGiven, readRequest, runContext, running } from '../sending';
import { writeWhole } from '../write-file';
import { namedFields } from './loop';

export interface SeriesOptions extends RunOptions {
  readonly vary?: string;
  readonly step?: string;
  readonly next?: string;
  readonly cursor?: string;
  readonly list?: string;
  readonly total?: string;
  readonly pages?: string;
  readonly shortEnds?: true;
  readonly most?: string;
  readonly pause?: string;
  readonly atOnce?: string;
  readonly csv?: string;
  readonly out?: string;
  readonly lines?: string;
  readonly withValue?: true;
  readonly once?: true;
  readonly json?: true;
}

/** Sends a request over a range of values and gathers the lists of the responses as one table. */
export async function series(
  file: string | undefined,
  place: string | undefined,
  options: SeriesOptions,
): Promise<void> {
  const request = await readRequest(file, place, options);
  const response = request.captured === undefined ? undefined : findResponse(request.captured);
  const { text } = readBody(response, inflateWithZlib);
  const suggested = suggestLoop({ text, headers: response?.headers }, request.draft);
  const fields = fieldsOf(options, suggested);
  const atOnce = options.atOnce === undefined ? 1 : Number(options.atOnce);
  if (![1, 2, 3, 4].includes(atOnce)) throw new UsageError('--at-once takes a number from 1 to 4.');
  const order = { kind: 'series', loop: fields, atOnce } as const;
  const rows: GatheredRow[] = [];
  const { context, end } = runContext(request, options, ({ label, sentence, rows: came = 0 }, { response: heard }) => {
    tell(`${label}: ${sentence}`);
    if (came > 0 && heard !== undefined) for (const json of gathering.rowsOf(heard)) rows.push({ json, value: label });
  });
  const gathering = new Series(request.draft, await running(() => loopOf(order)));
  await running(() => runSeries(context, order));
  const { result, sentence } = end();
  const repeated = countRepeated(rows);
  tell(sentence);
  if (repeated > 0)
    tell(
      `${formatPlural(repeated, 'row')} came more than once${options.once === true ? ' and stand there once' : ': --once leaves them out'}.`,
    );
  await write(rows, options, fields.parameter);
  if (options.json === true) printJson({ sentence, responses: result.series?.responses, rows: rows.length, repeated });
  if (result.series?.end?.why !== 'done') process.exitCode = 1;
}

async function write(rows: readonly GatheredRow[], options: SeriesOptions, parameter: string): Promise<void> {
  const choice: TableChoice = {
    once: options.once === true,
    ...(options.withValue === true ? { valueColumn: parameter } : {}),
  };
  const all = (): readonly GatheredRow[] => rows;
  if (options.csv !== undefined) await put(options.csv, rowsAsCsv(all, choice));
  if (options.out !== undefined) await put(options.out, rowsAsJson(all, choice));
  if (options.lines !== undefined) await put(options.lines, rowsAsLines(all, choice));
  if (options.csv === undefined && options.out === undefined && options.lines === undefined && options.json !== true)
    for (const piece of rowsAsCsv(all, choice)) print(piece);
}

async function put(out: string, pieces: Iterable<string>): Promise<void> {
  if (out === '-') for (const piece of pieces) print(piece);
  else await writeWhole(out, pieces);
}

/** What the series goes through, as it was said: --vary NAME=..., or --next. */
function fieldsOf(options: SeriesOptions, suggested: Partial<LoopFields>): LoopFields {
  const shared = namedFields({
    step: options.step,
    list: options.list,
    total: options.total,
    pages: options.pages,
    shortEnds: options.shortEnds === true ? 'yes' : undefined,
    next: options.next,
    cursor: options.cursor,
    mostPages: options.most,
    pauseMs: options.pause,
  });
  const fields: LoopFields = { ...FIRST_LOOP, ...suggested, ...shared };
  if (options.vary === undefined) {
    if (options.next === undefined && suggested.next === undefined)
      throw new UsageError('Name what the series goes through: --vary NAME=1.. or --next PLACE.');
    return { ...fields, kind: 'follow' };
  }
  const [, parameter = '', given] = /^(?:(?:query|field|header)\.)?([^=]+)=(.*)$/s.exec(options.vary) ?? [];
  if (given === undefined)
    throw new UsageError('--vary takes NAME=1.., NAME=1..9, NAME=2026-03-01..2026-03-31, NAME=a,b,c or NAME=@FILE.');
  const [, first = '', last = ''] = /^([^.,@]+)\.\.([^.,]*)$/.exec(given) ?? [];
  if (/^\d{4}[-/.]?\d\d[-/.]?\d\d$/.test(first) && (/\D/.test(first) || first.length === last.length))
    return { ...fields, kind: 'days', parameter, firstDay: first, lastDay: last };
  if (first !== '') return { ...fields, kind: 'pages', parameter, from: first, to: last };
  return { ...fields, kind: 'values', parameter, values: given.startsWith('@') ? fromFile(given.slice(1)) : given };
}

/** Values of a file: one a line, or those of a column of a CSV file ("huts.csv:id"). */
function fromFile(named: string): string {
  const [, path = named, column] = /^(.+):([^:/\\]+)$/.exec(named) ?? [];
  const text = decodeText(readGiven('--vary', path), 'text/plain');
  if (column === undefined) return `${text}\n`;
  const values = typedColumn(text, column);
  if ('problem' in values) throw new UsageError(`${path}: ${values.problem}`);
  return values.typed;
}
