import {
  columnOf,
  type ExchangeRow,
  FLAG_COLUMNS,
  type FlagColumn,
  NUMBER_COLUMNS,
  type NumberColumn,
  type RowColumn,
  raiseRow,
  TEXT_COLUMNS,
  type TextColumn,
} from '../analysis';

/** A column of texts as codes into its distinct values; -1 for absent. */
export interface PackedTexts {
  readonly values: readonly string[];
  readonly codes: readonly number[];
}
/** Numbers of a column; null for absent. */
type PackedNumbers = readonly (number | null)[];

/** The exchange list by columns: small once compressed, since names and addresses repeat. */
export interface PackedRows {
  /** True where bodies had been read: who names whom is known. */
  readonly isDiagnosed: boolean;
  readonly count: number;
  readonly texts: Readonly<Record<TextColumn, PackedTexts>>;
  readonly numbers: Readonly<Record<NumberColumn, PackedNumbers>>;
  readonly flags: Readonly<Record<FlagColumn, readonly boolean[]>>;
}

/** Packs rows column by column: given each column, whatever the rows are made of. */
export function packColumns(isDiagnosed: boolean, column: (field: RowColumn) => readonly unknown[]): PackedRows {
  const texts = TEXT_COLUMNS.map((field) => [field, packTexts(column(field) as (string | undefined)[])]);
  const numbers = NUMBER_COLUMNS.map((field) => [field, column(field).map((value) => value ?? null)]);
  const flags = FLAG_COLUMNS.map((field) => [field, column(field).map(Boolean)]);
  return {
    isDiagnosed,
    count: column('index').length,
    texts: Object.fromEntries(texts) as PackedRows['texts'],
    numbers: Object.fromEntries(numbers) as PackedRows['numbers'],
    flags: Object.fromEntries(flags) as PackedRows['flags'],
  };
}

export const packRows = (rows: readonly ExchangeRow[]): PackedRows =>
  packColumns(false, (field) => rows.map((row) => columnOf(row, field)));

/** Texts as codes into the distinct ones among them. */
export function packTexts(column: readonly (string | null | undefined)[]): PackedTexts {
  const codeOf = new Map<string, number>();
  const codes = column.map((text) => {
    if (text === undefined || text === null) return -1;
    const code = codeOf.get(text) ?? codeOf.size;
    codeOf.set(text, code);
    return code;
  });
  return { values: [...codeOf.keys()], codes };
}

/** The rows again, as `packRows` was given them. */
export function unpackRows(packed: PackedRows): ExchangeRow[] {
  const columns = new Map<RowColumn, readonly unknown[]>();
  for (const field of TEXT_COLUMNS) {
    const { values, codes } = packed.texts[field];
    columns.set(
      field,
      codes.map((code) => values[code]),
    );
  }
  for (const field of NUMBER_COLUMNS) columns.set(field, packed.numbers[field]);
  for (const field of FLAG_COLUMNS) columns.set(field, packed.flags[field]);
  return Array.from({ length: packed.count }, (_, at) => raiseRow((field) => columns.get(field)?.[at]));
}
