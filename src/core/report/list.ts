import type { ExchangeRow } from '../analysis';
import { wordFailure } from '../wording';

/** One exchange as the command line and the exports give it: unknown members are left out once it is JSON. */
export function rowJson(row: ExchangeRow): Readonly<Record<string, unknown>> {
  const { index, pageId, method, url, host, status, kind, source, sourceEvidence, party } = row;
  const { wireBytes, bodyBytes, mimeType, failure } = row;
  const words = failure === undefined ? undefined : wordFailure(failure);
  const startMs = unblurred(row.startMs);
  const timeMs = unblurred(row.timeMs);
  const phases = Object.fromEntries(Object.entries(row.phases).map(([name, ms]) => [name, unblurred(ms)]));
  const { parent, parentEvidence, depth, endpoint } = row;
  const identity = { index, page: pageId, method, url, host, status, kind, source, sourceEvidence, party };
  const measures = { startMs, timeMs, phases, wireBytes, bodyBytes, mimeType };
  return {
    ...identity,
    ...measures,
    failed: failure !== undefined,
    failure: words,
    parent,
    parentEvidence,
    depth,
    endpoint,
  };
}

/** A time without the blur that adding leaves behind: 3.111, not 3.1109999999999998. In ms, exact to the nanosecond. */
const unblurred = (ms: number | undefined): number | undefined =>
  ms === undefined ? undefined : Number(ms.toFixed(6));

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
