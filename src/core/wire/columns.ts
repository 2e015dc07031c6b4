import type { ExchangeRow } from '../analysis';
import { PHASES } from '../model';

/** A column of texts as codes into its distinct values; -1 for absent. */
export interface PackedTexts {
  readonly values: readonly string[];
  readonly codes: readonly number[];
}
/** A column of numbers; null for absent. */
type NumberColumn = readonly (number | null)[];

const TEXT_FIELDS = [
  'pageId',
  'method',
  'url',
  'host',
  'protocol',
  'kind',
  'kindEvidence',
  'source',
  'sourceEvidence',
  'party',
  'mimeType',
  'operation',
  'failure',
  'connection',
  'parentEvidence',
  'endpoint',
] as const satisfies readonly (keyof ExchangeRow)[];
const NUMBER_FIELDS = [
  'index',
  'status',
  'startedAt',
  'startMs',
  'timeMs',
  'wireBytes',
  'bodyBytes',
  'parent',
  'preflightFor',
  'depth',
] as const satisfies readonly (keyof ExchangeRow)[];

/** The exchange list by columns: small once compressed, since names and addresses repeat. */
export interface PackedRows {
  readonly count: number;
  readonly texts: Readonly<Record<(typeof TEXT_FIELDS)[number], PackedTexts>>;
  readonly numbers: Readonly<Record<(typeof NUMBER_FIELDS)[number] | (typeof PHASES)[number], NumberColumn>>;
  readonly pageInferred: readonly boolean[];
  readonly isOnRoute: readonly boolean[];
}

export function packRows(rows: readonly ExchangeRow[]): PackedRows {
  const texts = Object.fromEntries(TEXT_FIELDS.map((field) => [field, packTexts(rows.map((row) => row[field]))]));
  const plain = NUMBER_FIELDS.map((field) => [field, rows.map((row) => row[field] ?? null)]);
  const phases = PHASES.map((name) => [name, rows.map((row) => row.phases[name] ?? null)]);
  return {
    count: rows.length,
    texts: texts as PackedRows['texts'],
    numbers: Object.fromEntries([...plain, ...phases]) as PackedRows['numbers'],
    pageInferred: rows.map((row) => row.pageInferred),
    isOnRoute: rows.map((row) => row.isOnRoute),
  };
}

/** Texts as codes into the distinct ones among them. */
export function packTexts(column: readonly (string | undefined)[]): PackedTexts {
  const codeOf = new Map<string, number>();
  const codes = column.map((text) => {
    if (text === undefined) return -1;
    const code = codeOf.get(text) ?? codeOf.size;
    codeOf.set(text, code);
    return code;
  });
  return { values: [...codeOf.keys()], codes };
}

/** The rows again, as `packRows` was given them. */
export function unpackRows(packed: PackedRows): ExchangeRow[] {
  return Array.from({ length: packed.count }, (_, place) => {
    const texts = Object.fromEntries(
      TEXT_FIELDS.map((field) => {
        const { values, codes } = packed.texts[field];
        return [field, values[codes[place] ?? -1]];
      }),
    );
    const number = (field: keyof PackedRows['numbers']): number | undefined =>
      packed.numbers[field][place] ?? undefined;
    const numbers = Object.fromEntries(NUMBER_FIELDS.map((field) => [field, number(field)]));
    const phases = Object.fromEntries(PHASES.map((name) => [name, number(name)]));
    const flags = { pageInferred: packed.pageInferred[place] ?? false, isOnRoute: packed.isOnRoute[place] ?? false };
    const row = { ...texts, ...numbers, phases, ...flags };
    // The fields' types were checked when they were packed; the lists above name every one of them.
    return row as unknown as ExchangeRow;
  });
}
