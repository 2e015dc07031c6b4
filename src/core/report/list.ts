import { type ExchangeRow, ROW_FIELDS } from '../analysis';
import { exactMs, wordFailure } from '../wording';

const PRINTED = (Object.keys(ROW_FIELDS) as (keyof ExchangeRow)[]).flatMap((field) => {
  const { json } = ROW_FIELDS[field] as { readonly json?: string };
  return json === undefined ? [] : [{ field, json }];
});

/** One exchange as the command line and the exports give it: unknown members are left out once it is JSON. */
export function rowJson(row: ExchangeRow): Readonly<Record<string, unknown>> {
  const { failure, phases } = row;
  const shown: Partial<Record<keyof ExchangeRow, unknown>> = {
    ...row,
    startMs: exactMs(row.startMs),
    timeMs: exactMs(row.timeMs),
    phases: Object.fromEntries(Object.entries(phases).map(([name, ms]) => [name, exactMs(ms)])),
    failure: failure === undefined ? undefined : wordFailure(failure),
  };
  return Object.fromEntries(
    PRINTED.flatMap(({ field, json }) => {
      const member = [json, shown[field]] as const;
      return field === 'failure' ? [['failed', failure !== undefined] as const, member] : [member];
    }),
  );
}

/** A table program would run such a cell as a formula: an apostrophe before it makes it text. */
const FORMULA = /^(?:[\t\r]|\s*[=+\-@])/;
const isNumber = (text: string): boolean => /^-?\d+(\.\d+)?(e-?\d+)?$/i.test(text);

/** One cell (RFC 4180 2): quoted where it must be, defused where it would be run. */
function csvCell(value: unknown): string {
  const text = value === undefined || value === null ? '' : String(value);
  const safe = FORMULA.test(text) && !isNumber(text) ? `'${text}` : text;
  return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}

/** Rows of cells as CSV (RFC 4180), the header first. Unknown is an empty cell. */
export const toCsv = (header: readonly string[], rows: readonly (readonly unknown[])[]): string =>
  [header, ...rows].map((cells) => `${cells.map(csvCell).join(',')}\r\n`).join('');

/** The exchanges as CSV: one column for each member of `rowJson`, phases one by one. */
export function rowsToCsv(rows: readonly ExchangeRow[]): string {
  const flat = rows.map((row) => {
    const { phases, ...rest } = rowJson(row) as { phases: Record<string, unknown> };
    return { ...rest, ...phases } as Record<string, unknown>;
  });
  const header = Object.keys(flat[0] ?? {});
  return toCsv(
    header,
    flat.map((row) => header.map((name) => row[name])),
  );
}
