import { tableRows } from '../content';

/** The columns that a CSV text names in its first row. */
export const columnsOf = (text: string): readonly string[] =>
  (tableRows(text).next().value ?? []).map((cell: { readonly text: string }) => cell.text);

/** The values of a column of a CSV text, empty ones left out; undefined where its first row does not name it. */
export function readColumn(text: string, column: string): string[] | undefined {
  const [head = [], ...rows] = tableRows(text);
  const at = head.findIndex((name) => name.text.trim() === column.trim());
  if (at === -1) return undefined;
  return rows.map((row) => row[at]?.text.trim() ?? '').filter((value) => value !== '');
}

/**
 * The values of a column as a loop's field takes them, one a line; what is wrong where they are none.
 * @returns a problem as a sentence where the column is not there, or a cell has a line break in it
 */
export function typedColumn(text: string, column: string): { readonly typed: string } | { readonly problem: string } {
  const values = readColumn(text, column);
  if (values === undefined) return { problem: `There is no column "${column}".` };
  const broken = values.find((value) => /[\r\n]/.test(value));
  if (broken !== undefined) {
    const start = (broken.split(/[\r\n]/, 1)[0] ?? '').slice(0, 40);
    return { problem: `The cell "${start}…" of column "${column}" has a line break in it: a value is one line.` };
  }
  // A line alone would be taken apart at its commas: one before it says that lines are meant.
  const before = values.length === 1 && values[0]?.includes(',') === true ? '\n' : '';
  return { typed: `${before}${values.join('\n')}\n` };
}
