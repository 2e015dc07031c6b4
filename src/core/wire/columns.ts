import type { ExchangeRow } from '../analysis';
import { PHASES, type PhaseName, packFailure, unpackFailure } from '../model';

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
  'payloadHash',
  'parent',
  'namedBy',
  'preflightFor',
  'depth',
] as const satisfies readonly (keyof ExchangeRow)[];

/** The exchange list by columns: small once compressed, since names and addresses repeat. */
export interface PackedRows {
  /** True where bodies had been read: who names whom is known. */
  readonly isDiagnosed: boolean;
  readonly count: number;
  readonly texts: Readonly<Record<(typeof TEXT_FIELDS)[number], PackedTexts>>;
  readonly numbers: Readonly<Record<(typeof NUMBER_FIELDS)[number] | (typeof PHASES)[number], NumberColumn>>;
  readonly pageInferred: readonly boolean[];
  readonly isOnRoute: readonly boolean[];
}

/** Packs rows column by column: given each field's column, whatever the rows are made of. */
export function packColumns(
  isDiagnosed: boolean,
  column: (
    field: (typeof TEXT_FIELDS)[number] | keyof PackedRows['numbers'] | 'pageInferred' | 'isOnRoute',
  ) => readonly unknown[],
): PackedRows {
  const texts = TEXT_FIELDS.map((field) => [field, packTexts(column(field) as (string | undefined)[])]);
  const numbers = [...NUMBER_FIELDS, ...PHASES].map((field) => [field, column(field).map((value) => value ?? null)]);
  return {
    isDiagnosed,
    count: column('index').length,
    texts: Object.fromEntries(texts) as PackedRows['texts'],
    numbers: Object.fromEntries(numbers) as PackedRows['numbers'],
    pageInferred: column('pageInferred').map(Boolean),
    isOnRoute: column('isOnRoute').map(Boolean),
  };
}

export function packRows(rows: readonly ExchangeRow[]): PackedRows {
  const isPhase = (field: string): field is PhaseName => (PHASES as readonly string[]).includes(field);
  return packColumns(false, (field) => {
    if (isPhase(field)) return rows.map((row) => row.phases[field]);
    if (field === 'failure') return rows.map((row) => packFailure(row.failure));
    return rows.map((row) => row[field as keyof ExchangeRow]);
  });
}

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

/** The rows again, as `packRows` was given them. One literal makes all rows alike, which engines make fast. */
export function unpackRows(packed: PackedRows): ExchangeRow[] {
  const { texts, numbers } = packed;
  return Array.from({ length: packed.count }, (_, at) => {
    const text = (field: keyof PackedRows['texts']): string | undefined => {
      const { values, codes } = texts[field];
      return values[codes[at] ?? -1];
    };
    const number = (field: keyof PackedRows['numbers']): number | undefined => numbers[field][at] ?? undefined;
    const row: { readonly [Field in keyof ExchangeRow]: unknown } = {
      index: number('index'),
      pageId: text('pageId'),
      pageInferred: packed.pageInferred[at] ?? false,
      method: text('method'),
      url: text('url'),
      host: text('host'),
      status: number('status'),
      protocol: text('protocol'),
      kind: text('kind'),
      kindEvidence: text('kindEvidence'),
      source: text('source'),
      sourceEvidence: text('sourceEvidence'),
      party: text('party'),
      startedAt: number('startedAt'),
      startMs: number('startMs'),
      timeMs: number('timeMs'),
      phases: {
        heldMs: number('heldMs'),
        lookupMs: number('lookupMs'),
        connectMs: number('connectMs'),
        secureMs: number('secureMs'),
        sendMs: number('sendMs'),
        waitMs: number('waitMs'),
        downloadMs: number('downloadMs'),
      },
      wireBytes: number('wireBytes'),
      bodyBytes: number('bodyBytes'),
      mimeType: text('mimeType'),
      operation: text('operation'),
      payloadHash: number('payloadHash'),
      failure: unpackFailure(text('failure')),
      connection: text('connection'),
      parent: number('parent'),
      parentEvidence: text('parentEvidence'),
      namedBy: number('namedBy'),
      preflightFor: number('preflightFor'),
      depth: number('depth'),
      endpoint: text('endpoint'),
      isOnRoute: packed.isOnRoute[at] ?? false,
    };
    // The fields' types were checked when they were packed.
    return row as ExchangeRow;
  });
}
