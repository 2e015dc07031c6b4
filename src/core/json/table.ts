import { type JsonTree, keyOf, kindOf, membersOf, nodeText, pathTo, plainValue } from './tree';

/** An array in a JSON text that reads as a table. */
export interface TableChoice {
  readonly node: number;
  readonly path: string;
  readonly rows: number;
}

/** One array of objects as a table. A cell is the number of its value in the tree; -1 where a row has none. */
export interface JsonTable {
  readonly node: number;
  /** The column whose lists have a row for each of their members; absent where none has. */
  readonly opened: string | undefined;
  readonly columns: readonly string[];
  /** The columns that hold lists, which can be opened; the one that is opened among them. */
  readonly lists: readonly string[];
  /** For each column its cells, row by row. */
  readonly cells: readonly Int32Array[];
  readonly rows: number;
  /** Columns left out, where there are more than anybody reads. */
  readonly leftOut: number;
}

const MOST_COLUMNS = 120;
const MOST_DEPTH = 6;
const MOST_CHOICES = 50;

/** The arrays that hold objects, most rows first: an array counts where at least half of its members are objects. */
export function findTables(tree: JsonTree): TableChoice[] {
  const choices: { node: number; rows: number }[] = [];
  for (let node = 0; node < tree.count; node++) {
    const rows = tree.sizes[node] ?? 0;
    if (rows === 0 || kindOf(tree, node) !== 'array') continue;
    let objects = 0;
    for (const row of membersOf(tree, node)) if (kindOf(tree, row) === 'object') objects++;
    if (objects * 2 >= rows) choices.push({ node, rows });
  }
  return choices
    .sort((a, b) => b.rows - a.rows || a.node - b.node)
    .slice(0, MOST_CHOICES)
    .map(({ node, rows }) => ({ node, rows, path: pathTo(tree, node, 'jsonpath') }));
}

/**
 * An array as a table: a column for each field, those of nested objects by their dotted path, in order of appearance.
 * @param opened the column of a nested list, each of whose members gets a row of its own beside the other fields
 */
export function buildTable(tree: JsonTree, node: number, opened?: string): JsonTable {
  const items = [...membersOf(tree, node)];
  const heights = items.map((item) => (opened === undefined ? 1 : heightOf(tree, item, opened)));
  const rows = heights.reduce((sum, height) => sum + height, 0);
  const cells = new Map<string, Int32Array>();
  const lists = new Set<string>();
  const refused = new Set<string>();
  let leftOut = 0;
  const columnOf = (name: string): Int32Array | undefined => {
    const known = cells.get(name);
    if (known !== undefined) return known;
    if (cells.size >= MOST_COLUMNS) {
      if (!refused.has(name)) leftOut++;
      if (refused.size < MOST_COLUMNS * 10) refused.add(name);
      return undefined;
    }
    const column = new Int32Array(rows).fill(-1);
    cells.set(name, column);
    return column;
  };
  let row = 0;
  for (const [at, item] of items.entries()) {
    const height = heights[at] ?? 1;
    const first = row;
    visitFields(tree, item, '', 0, (name, value) => {
      const isList = isFilledList(tree, value);
      if (isList) lists.add(name);
      if (!isList || name !== opened) {
        columnOf(name)?.fill(value, first, first + height);
        return;
      }
      let own = first;
      for (const member of membersOf(tree, value)) {
        const place = own++;
        visitFields(tree, member, name, 0, (inner, cell) => void columnOf(inner)?.fill(cell, place, place + 1));
      }
    });
    row += height;
  }
  return { node, opened, columns: [...cells.keys()], cells: [...cells.values()], lists: [...lists], rows, leftOut };
}

const isFilledList = (tree: JsonTree, value: number): boolean =>
  kindOf(tree, value) === 'array' && (tree.sizes[value] ?? 0) > 0;

/** How many rows an item takes once a list of its own is opened. */
function heightOf(tree: JsonTree, item: number, opened: string): number {
  let height = 1;
  visitFields(tree, item, '', 0, (name, value) => {
    if (name === opened && isFilledList(tree, value)) height = tree.sizes[value] ?? 1;
  });
  return height;
}

/** Visits the fields of a value, those of nested objects under their dotted paths; a plain value is its own field. */
function visitFields(
  tree: JsonTree,
  value: number,
  name: string,
  depth: number,
  visit: (name: string, value: number) => void,
): void {
  const isNested = kindOf(tree, value) === 'object' && (tree.sizes[value] ?? 0) > 0 && depth < MOST_DEPTH;
  if (!isNested) {
    visit(name === '' ? 'value' : name, value);
    return;
  }
  for (const field of membersOf(tree, value)) {
    const key = String(keyOf(tree, field));
    visitFields(tree, field, name === '' ? key : `${name}.${key}`, depth + 1, visit);
  }
}

/** The rows' order by a column: numbers by their value, other values by their text, missing ones last both ways. */
export function orderTable(tree: JsonTree, table: JsonTable, column: number, isFalling: boolean): Uint32Array {
  const cells = table.cells[column] ?? new Int32Array();
  const keys = Array.from(cells, (cell) => (cell === -1 ? undefined : sortKey(tree, cell)));
  const sign = isFalling ? -1 : 1;
  return Uint32Array.from(keys.keys()).sort((a, b) => {
    const [first, second] = [keys[a], keys[b]];
    if (first === undefined || second === undefined) return Number(first === undefined) - Number(second === undefined);
    return sign * compareKeys(first, second) || a - b;
  });
}

type SortKey = number | string;

function sortKey(tree: JsonTree, cell: number): SortKey {
  const text = plainValue(tree, cell);
  return kindOf(tree, cell) === 'number' ? Number(text) : text;
}

/** Numbers before texts; texts by their units, which is the same on every machine. */
function compareKeys(a: SortKey, b: SortKey): number {
  if (typeof a === 'number') return typeof b === 'number' ? a - b : -1;
  if (typeof b === 'number') return 1;
  return a < b ? -1 : a > b ? 1 : 0;
}

/** The texts of one row, column by column; undefined where it has no such field. Containers are given as JSON. */
export const tableCells = (tree: JsonTree, table: JsonTable, row: number): (string | undefined)[] =>
  table.cells.map((column) => {
    const cell = column[row] ?? -1;
    if (cell === -1) return undefined;
    const kind = kindOf(tree, cell);
    return kind === 'object' || kind === 'array' ? nodeText(tree, cell) : plainValue(tree, cell);
  });
