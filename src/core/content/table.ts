/** A cell of a table in text. */
export interface TableCell {
  readonly text: string;
  /** As it stands there, without the quotes around it. */
  readonly raw: string;
  /** Where that begins. */
  readonly at: number;
}

/** What parts cells, by how often it stands in the first row: some write semicolons where commas stand in numbers. */
const SEPARATORS = [',', ';', '\t'] as const;

/** No first row needs more to tell. */
const HEAD_CHARS = 20_000;

function separatorOf(text: string): string {
  const begun = text.slice(0, HEAD_CHARS).replace(/"[^"]*"/g, '');
  const head = /^[^\r\n]*/.exec(begun)?.[0] ?? '';
  const counted = SEPARATORS.map((one) => ({ one, count: head.split(one).length }));
  return counted.reduce((most, next) => (next.count > most.count ? next : most)).one;
}

/**
 * The cells of a table in text (CSV, RFC 4180), row by row; a mark of the byte order before them is none of theirs. A quote
 * inside a cell that has none at its beginning stands for itself, and so does what stands behind the closing one.
 */
export function* tableRows(text: string): Generator<TableCell[]> {
  const separator = separatorOf(text);
  const plainCell = `[^${separator}\\r\\n]*`;
  const pattern = new RegExp(
    `(?:"([^"]*(?:""[^"]*)*)"(${plainCell})|(${plainCell}))(${separator}|\\r\\n|\\n|\\r|$)`,
    'y',
  );
  let row: TableCell[] = [];
  for (pattern.lastIndex = text.startsWith('\uFEFF') ? 1 : 0; pattern.lastIndex < text.length; ) {
    const match = pattern.exec(text);
    if (match === null) return;
    const [, quoted, behind = '', plain = '', end] = match;
    row.push(
      quoted === undefined
        ? { text: plain, raw: plain, at: match.index }
        : { text: quoted.replaceAll('""', '"') + behind, raw: quoted, at: match.index + 1 },
    );
    if (end === separator) {
      // A separator at the very end has an empty cell behind it.
      if (pattern.lastIndex >= text.length) row.push({ text: '', raw: '', at: text.length });
      else continue;
    }
    yield row;
    row = [];
  }
  if (row.length > 0) yield row;
}
