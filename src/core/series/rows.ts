import { cellsOf, compactJson, parseJson } from '../json';

/** A gathered row in its very characters, and the value that its request had. */
export interface GatheredRow {
  readonly json: string;
  readonly value: string;
}

/** What a table is written with. */
export interface TableChoice {
  /** What the column of the value is called that each row came from; absent where none is wanted. */
  readonly valueColumn?: string;
  /** Without rows that are there already. */
  readonly once?: boolean;
}

/** Rows as CSV, just as the loop's code writes them: all names first, texts that a table program would run defused. */
export function* rowsAsCsv(
  rows: () => Iterable<GatheredRow>,
  { valueColumn, once = false }: TableChoice,
): Generator<string> {
  const names = new Map<string, number>();
  for (const { json } of chosen(rows(), once))
    for (const name of cellsOf(json).keys()) if (!names.has(name)) names.set(name, names.size);
  if (names.size === 0) return;
  const head = [...(valueColumn === undefined ? [] : [valueColumn]), ...names.keys()];
  yield lineOf(head.map((name) => quoted(defused(name))));
  for (const { json, value } of chosen(rows(), once)) {
    const cells = new Array<string>(names.size).fill('');
    for (const [name, literal] of cellsOf(json)) cells[names.get(name) ?? 0] = csvCell(literal);
    yield lineOf(valueColumn === undefined ? cells : [quoted(defused(value)), ...cells]);
  }
}

/** Rows one a line (JSON lines). */
export function* rowsAsLines(rows: () => Iterable<GatheredRow>, choice: TableChoice): Generator<string> {
  for (const row of chosen(rows(), choice.once ?? false)) yield `${withValue(row, choice)}\n`;
}

/** Rows as one array of JSON. */
export function* rowsAsJson(rows: () => Iterable<GatheredRow>, choice: TableChoice): Generator<string> {
  let between = '[';
  for (const row of chosen(rows(), choice.once ?? false)) {
    yield `${between}${withValue(row, choice)}`;
    between = ',\n';
  }
  yield between === '[' ? '[]\n' : ']\n';
}

/** How many rows were there already, told by a member that is called as ids are, else by all that they say. */
export function countRepeated(rows: Iterable<GatheredRow>): number {
  const seen = new Set<string>();
  let repeated = 0;
  for (const { json } of rows) {
    const key = identityOf(json);
    if (seen.has(key)) repeated++;
    seen.add(key);
  }
  return repeated;
}

function* chosen(rows: Iterable<GatheredRow>, once: boolean): Generator<GatheredRow> {
  const seen = new Set<string>();
  for (const row of rows) {
    const key = once ? identityOf(row.json) : '';
    if (once && seen.has(key)) continue;
    if (once) seen.add(key);
    yield row;
  }
}

const IDS = ['id', '_id', 'uuid', 'guid', 'key'];

function identityOf(json: string): string {
  const value = parseJson(json);
  if (typeof value === 'object' && value !== null && !Array.isArray(value)) {
    const name = IDS.find((one) => ['string', 'number'].includes(typeof (value as Record<string, unknown>)[one]));
    // Its very characters: of two long numbers that are one as doubles, two ids.
    if (name !== undefined) return `${name} ${cellsOf(json).get(name)}`;
  }
  return compactJson(json);
}

function withValue({ json, value }: GatheredRow, { valueColumn }: TableChoice): string {
  const compact = compactJson(json);
  if (valueColumn === undefined) return compact;
  const member = `${JSON.stringify(valueColumn)}:${JSON.stringify(value)}`;
  if (!compact.startsWith('{')) return `{${member},"value":${compact}}`;
  return compact === '{}' ? `{${member}}` : `{${member},${compact.slice(1)}`;
}

const lineOf = (cells: readonly string[]): string => `${cells.join(',') || '""'}\n`;
const quoted = (cell: string): string => (/[",\r\n]/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell);
const isFormula = (cell: string): boolean =>
  /^(?:[\t\r]|\s*[=+\-@])/.test(cell) && !/^-?\d+(?:\.\d+)?(?:e-?\d+)?$/i.test(cell);
const defused = (cell: string): string => (isFormula(cell) ? `'${cell}` : cell);

function csvCell(literal: string): string {
  if (literal === 'null') return '';
  if (!literal.startsWith('"')) return quoted(compactJson(literal));
  const text = parseJson(literal);
  return quoted(defused(typeof text === 'string' ? text : literal));
}
