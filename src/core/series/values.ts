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
