/** The cells of a CSV text (RFC 4180), row by row. */
function* csvRows(text: string): Generator<string[]> {
  const cell = /(?:"((?:[^"]|"")*)"|([^",\r\n]*))(,|\r\n|\n|\r|$)/y;
  let row: string[] = [];
  for (cell.lastIndex = 0; cell.lastIndex < text.length; ) {
    const match = cell.exec(text);
    if (match === null) return;
    const [, quoted, plain = '', end] = match;
    row.push(quoted === undefined ? plain : quoted.replaceAll('""', '"'));
    if (end === ',') {
      // A comma at the very end has an empty cell behind it.
      if (cell.lastIndex >= text.length) row.push('');
      else continue;
    }
    yield row;
    row = [];
  }
  if (row.length > 0) yield row;
}

/** The columns that a CSV text names in its first row. */
export const columnsOf = (text: string): readonly string[] => csvRows(withoutMark(text)).next().value ?? [];

/** The values of a column of a CSV text, empty ones left out; undefined where its first row does not name it. */
export function readColumn(text: string, column: string): string[] | undefined {
  const [head = [], ...rows] = csvRows(withoutMark(text));
  const at = head.findIndex((name) => name.trim() === column.trim());
  if (at === -1) return undefined;
  return rows.flatMap((row) => (row[at] === undefined || row[at].trim() === '' ? [] : [row[at].trim()]));
}

const withoutMark = (text: string): string => text.replace(/^\uFEFF/, '');
