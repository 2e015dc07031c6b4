/** What parts cells, by how often it stands in the first row: some write semicolons where commas stand in numbers. */
const DELIMITERS = [',', ';', '\t'] as const;

/** No first row needs more to tell. */
const HEAD_CHARS = 20_000;

function delimiterOf(text: string): string {
  const begun = text.slice(0, HEAD_CHARS).replace(/"[^"]*"/g, '');
  const head = /^[^\r\n]*/.exec(begun)?.[0] ?? '';
  const counted = DELIMITERS.map((one) => ({ one, count: head.split(one).length }));
  return counted.reduce((most, next) => (next.count > most.count ? next : most)).one;
}

/**
 * The cells of a CSV text, row by row (RFC 4180). A quote inside a cell that has none at its beginning stands for itself,
 * and so does what stands behind the closing one.
 */
function* csvRows(text: string): Generator<string[]> {
  const delimiter = delimiterOf(text);
  const plainCell = `[^${delimiter}\\r\\n]*`;
  const cell = new RegExp(`(?:"([^"]*(?:""[^"]*)*)"(${plainCell})|(${plainCell}))(${delimiter}|\\r\\n|\\n|\\r|$)`, 'y');
  let row: string[] = [];
  for (cell.lastIndex = 0; cell.lastIndex < text.length; ) {
    const match = cell.exec(text);
    if (match === null) return;
    const [, quoted, behind = '', plain = '', end] = match;
    row.push(quoted === undefined ? plain : quoted.replaceAll('""', '"') + behind);
    if (end === delimiter) {
      // A delimiter at the very end has an empty cell behind it.
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
