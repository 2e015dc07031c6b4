import { classifyOutcome, type ExchangeRow, requestKey } from '../analysis';
import { queryOf, splitUrl } from '../http';
import { setupMs } from '../model';
import { findRoundTrips } from '../timing';
import { type PackedTexts, packTexts } from '../wire';
import {
  type DeltaField,
  type FieldRef,
  type FlagField,
  isDelta,
  type NamedField,
  type NumberField,
  readField,
  type TextField,
} from './fields';
import { numberOf } from './number-of';

/** A column of texts as codes into its distinct values, -1 where there is none. Several values stand one on each line. */
export interface TextColumn {
  readonly values: readonly string[];
  readonly codes: Int32Array;
}

/** Columns that are not in the rows: headers, cookies and the next visit, by "req.accept", read from the entries themselves. */
export type ExtraColumns = ReadonlyMap<string, PackedTexts>;

/** The extra columns of what somebody marked and noted: those of the rows that are marked, and of their notes. */
export const MARKED_COLUMN = 'marked';
export const NOTE_COLUMN = 'note';

/** What became of each row against another load, in the order of the rows: changes one on each line, differences NaN where unknown. */
export interface ComparedColumns {
  readonly changes: readonly string[];
  readonly deltas: Readonly<Record<DeltaField, Float64Array>>;
}

/** Named fields whose columns are made of the rows: the others come from the exchanges themselves. */
const OF_ROWS: ReadonlySet<string> = new Set<NamedField>(['query']);

/** Whether a name is that of a column that is not of the rows, as "req.accept" and "forecast.day" are. */
export function isExtraColumn(name: string): boolean {
  const field = readField(name);
  return typeof field === 'object' && 'key' in field && !OF_ROWS.has(field.name);
}

/** The name of a named field's column. Names of headers have no case (RFC 9110 5.1). */
export const columnName = (field: { readonly name: NamedField; readonly key: string }): string =>
  `${field.name}.${field.name === 'req' || field.name === 'res' ? field.key.toLowerCase() : field.key}`;

/** The rows of a capture by columns, each made when it is first asked for. */
export class Columns {
  readonly rows: readonly ExchangeRow[];
  readonly #titles: ReadonlyMap<string, string>;
  readonly #extra: ExtraColumns;
  readonly #compared: ComparedColumns | undefined;
  readonly #texts = new Map<string, TextColumn>();
  readonly #numbers = new Map<NumberField, Float64Array>();
  readonly #flags = new Map<FlagField, Uint8Array>();

  /** @param titles of pages, by their ids */
  constructor(
    rows: readonly ExchangeRow[],
    titles: ReadonlyMap<string, string>,
    extra: ExtraColumns,
    compared?: ComparedColumns,
  ) {
    this.rows = rows;
    this.#titles = titles;
    this.#extra = extra;
    this.#compared = compared;
  }

  /** Whether the rows stand beside another load's. */
  get isCompared(): boolean {
    return this.#compared !== undefined;
  }

  /** With other extra columns, keeping what was made of the rows. */
  with(extra: ExtraColumns): Columns {
    const other = new Columns(this.rows, this.#titles, extra, this.#compared);
    for (const [name, column] of this.#texts)
      if (!isExtraColumn(name) && name !== NOTE_COLUMN) other.#texts.set(name, column);
    for (const [name, column] of this.#numbers) other.#numbers.set(name, column);
    for (const [name, column] of this.#flags) if (name !== MARKED_COLUMN) other.#flags.set(name, column);
    return other;
  }

  text(field: FieldRef): TextColumn {
    const name = 'key' in field ? columnName(field) : field.name;
    return this.#made(this.#texts, name, () => this.#makeText(field, name));
  }

  /** Unknown is NaN, which no comparison holds for. */
  number(field: NumberField): Float64Array {
    return this.#made(this.#numbers, field, () => {
      if (isDelta(field)) return this.#compared?.deltas[field] ?? new Float64Array(this.rows.length).fill(Number.NaN);
      const of = field === 'roundtrip' ? tripOf(this.rows) : (row: ExchangeRow) => numberOf(row, field);
      return Float64Array.from(this.rows, (row) => of(row) ?? Number.NaN);
    });
  }

  flag(field: FlagField): Uint8Array {
    return this.#made(this.#flags, field, () =>
      field === 'marked'
        ? Uint8Array.from(this.#extraText(MARKED_COLUMN).codes, (code) => Number(code !== -1))
        : FLAGS[field](this.rows),
    );
  }

  #makeText(field: FieldRef, name: string): TextColumn {
    if (field.name === 'change') return encode(this.#compared?.changes ?? this.rows.map(() => undefined));
    if (field.name === 'note') return this.#extraText(NOTE_COLUMN);
    if (!('key' in field)) return encode(this.rows.map((row) => this.#textOf(row, field.name as RowText | 'page')));
    if (field.name === 'query') return encode(this.rows.map((row) => queryValues(row.url, field.key)));
    return this.#extraText(name);
  }

  #extraText(name: string): TextColumn {
    const extra = this.#extra.get(name);
    if (extra === undefined) return { values: [], codes: new Int32Array(this.rows.length).fill(-1) };
    return { values: extra.values, codes: Int32Array.from(extra.codes) };
  }

  #textOf(row: ExchangeRow, field: RowText | 'page'): string | undefined {
    if (field !== 'page') return textOf(row, field);
    const title = row.pageId === undefined ? undefined : this.#titles.get(row.pageId);
    return row.pageId === undefined ? undefined : title === undefined ? row.pageId : `${row.pageId}\n${title}`;
  }

  #made<K, V>(kept: Map<K, V>, key: K, make: () => V): V {
    const known = kept.get(key);
    if (known !== undefined) return known;
    const made = make();
    kept.set(key, made);
    return made;
  }
}

function encode(texts: readonly (string | undefined)[]): TextColumn {
  const { values, codes } = packTexts(texts);
  return { values, codes: Int32Array.from(codes) };
}

/** Texts that a row has by itself. */
type RowText = Exclude<TextField, 'page' | 'change' | 'note'>;

function textOf(row: ExchangeRow, field: RowText): string | undefined {
  switch (field) {
    case 'path': {
      const parts = splitUrl(row.url);
      return parts === undefined ? undefined : parts.path || '/';
    }
    case 'mime':
      return row.mimeType;
    case 'outcome':
      return classifyOutcome(row);
    case 'failure':
      return row.failure?.type === 'status' ? 'status' : row.failure?.reason;
    case 'finding':
      return row.findings;
    case 'method':
    case 'url':
    case 'host':
    case 'kind':
    case 'source':
    case 'party':
    case 'endpoint':
    case 'protocol':
    case 'operation':
    case 'connection':
      return row[field];
    default:
      return field satisfies never;
  }
}

/** The round trip of each exchange's host. */
function tripOf(rows: readonly ExchangeRow[]): (row: ExchangeRow) => number | undefined {
  const trips = findRoundTrips(rows);
  return ({ host }) => trips.get(host)?.ms;
}

const each =
  (isSet: (row: ExchangeRow) => boolean) =>
  (rows: readonly ExchangeRow[]): Uint8Array =>
    Uint8Array.from(rows, (row) => Number(isSet(row)));

const FLAGS: Record<Exclude<FlagField, 'marked'>, (rows: readonly ExchangeRow[]) => Uint8Array> = {
  errors: each(({ errorInside }) => errorInside !== undefined),
  storable: each(({ isStorable }) => isStorable),
  opened: each(({ phases }) => (setupMs(phases) ?? 0) > 0),
  failed: each(({ failure }) => failure !== undefined),
  repeated: findRepeated,
  onroute: each(({ isOnRoute }) => isOnRoute),
};

/** The same request is one of the same page, method, address, operation and payload. */
function findRepeated(rows: readonly ExchangeRow[]): Uint8Array {
  const keyOf = (row: ExchangeRow): string => `${row.pageId} ${requestKey(row)}`;
  const counts = new Map<string, number>();
  for (const row of rows) counts.set(keyOf(row), (counts.get(keyOf(row)) ?? 0) + 1);
  return Uint8Array.from(rows, (row) => Number((counts.get(keyOf(row)) ?? 0) > 1));
}

/** The values of a query parameter, decoded, one on each line; undefined where the address has none of the name. */
function queryValues(url: string, name: string): string | undefined {
  const values = new URLSearchParams(queryOf(url)).getAll(name);
  return values.length === 0 ? undefined : values.join('\n');
}
