import { PHASES, type PhaseName, packFailure, unpackFailure } from '../model';
import type { ExchangeRow } from './exchange-row';

/**
 * How a field of a row is kept where rows are columns: texts by their distinct values, flags as booleans, the phases as
 * one number each, a failure as one text. `json` is its name in what the command line prints; without one it stays inside.
 */
interface RowField {
  readonly kept: 'text' | 'number' | 'flag' | 'phases' | 'failure';
  readonly json?: string;
}

/** Every field of a row, in the order in which it is printed. Columns, table, reading and JSON follow from it. */
export const ROW_FIELDS = {
  index: { kept: 'number', json: 'index' },
  pageId: { kept: 'text', json: 'page' },
  pageInferred: { kept: 'flag' },
  method: { kept: 'text', json: 'method' },
  url: { kept: 'text', json: 'url' },
  host: { kept: 'text', json: 'host' },
  status: { kept: 'number', json: 'status' },
  protocol: { kept: 'text' },
  kind: { kept: 'text', json: 'kind' },
  kindEvidence: { kept: 'text' },
  source: { kept: 'text', json: 'source' },
  sourceEvidence: { kept: 'text', json: 'sourceEvidence' },
  fetchedFor: { kept: 'number', json: 'fetchedFor' },
  fetchedAs: { kept: 'number', json: 'fetchedAs' },
  party: { kept: 'text', json: 'party' },
  startedAt: { kept: 'number' },
  startMs: { kept: 'number', json: 'startMs' },
  timeMs: { kept: 'number', json: 'timeMs' },
  phases: { kept: 'phases', json: 'phases' },
  wireBytes: { kept: 'number', json: 'wireBytes' },
  bodyBytes: { kept: 'number', json: 'bodyBytes' },
  mimeType: { kept: 'text', json: 'mimeType' },
  operation: { kept: 'text' },
  payloadHash: { kept: 'number' },
  isStorable: { kept: 'flag' },
  freshSeconds: { kept: 'number' },
  errorInside: { kept: 'text', json: 'errorInside' },
  findings: { kept: 'text' },
  failure: { kept: 'failure', json: 'failure' },
  connection: { kept: 'text' },
  parent: { kept: 'number', json: 'parent' },
  parentEvidence: { kept: 'text', json: 'parentEvidence' },
  namedBy: { kept: 'number' },
  preflightFor: { kept: 'number' },
  holds: { kept: 'text' },
  depth: { kept: 'number', json: 'depth' },
  endpoint: { kept: 'text', json: 'endpoint' },
  isOnRoute: { kept: 'flag' },
} as const satisfies Readonly<Record<keyof ExchangeRow, RowField>>;

type Fields = typeof ROW_FIELDS;
type KeptAs<Kept extends RowField['kept']> = {
  [Field in keyof Fields]: Fields[Field]['kept'] extends Kept ? Field : never;
}[keyof Fields];

/** Columns of texts, numbers and flags, as rows become them. */
export type TextColumn = KeptAs<'text' | 'failure'>;
export type NumberColumn = KeptAs<'number'> | PhaseName;
export type FlagColumn = KeptAs<'flag'>;
export type RowColumn = TextColumn | NumberColumn | FlagColumn;

const NAMES = Object.keys(ROW_FIELDS) as (keyof ExchangeRow)[];
const keptAs = (...kept: RowField['kept'][]) => NAMES.filter((name) => kept.includes(ROW_FIELDS[name].kept));

export const TEXT_COLUMNS = keptAs('text', 'failure') as readonly TextColumn[];
export const NUMBER_COLUMNS: readonly NumberColumn[] = [...(keptAs('number') as KeptAs<'number'>[]), ...PHASES];
export const FLAG_COLUMNS = keptAs('flag') as readonly FlagColumn[];

/** A row with one value for each column; absent values are undefined or null. */
export type FlatRow = {
  readonly [Column in RowColumn]: Column extends TextColumn
    ? string | null | undefined
    : Column extends FlagColumn
      ? boolean
      : number | null | undefined;
};

/** A row's value in a column, as it is kept there. */
export function columnOf(row: ExchangeRow, column: RowColumn): string | number | boolean | undefined {
  if (column === 'failure') return packFailure(row.failure);
  return isPhase(column) ? row.phases[column] : row[column];
}

const isPhase = (column: RowColumn): column is PhaseName => (PHASES as readonly string[]).includes(column);

/** A row as one value for each column. */
export function flattenRow(row: ExchangeRow): FlatRow {
  const { phases, failure, ...rest } = row;
  return { ...rest, ...phases, failure: packFailure(failure) };
}

/** The row again, its columns asked for one by one. Values were checked when they were kept. */
export function raiseRow(cellOf: (column: RowColumn) => unknown): ExchangeRow {
  const row: Partial<Record<keyof ExchangeRow, unknown>> = {};
  for (const name of NAMES) row[name] = RAISE[ROW_FIELDS[name].kept](name, cellOf);
  return row as unknown as ExchangeRow;
}

const RAISE: Readonly<
  Record<RowField['kept'], (name: keyof ExchangeRow, cellOf: (column: RowColumn) => unknown) => unknown>
> = {
  text: (name, cellOf) => cellOf(name as RowColumn) ?? undefined,
  number: (name, cellOf) => cellOf(name as RowColumn) ?? undefined,
  flag: (name, cellOf) => cellOf(name as RowColumn) === true,
  phases: (_, cellOf) => Object.fromEntries(PHASES.map((phase) => [phase, cellOf(phase) ?? undefined])),
  failure: (_, cellOf) => unpackFailure(cellOf('failure') as string | null | undefined),
};
