/** Writes a result on stdout. */
export const print = (text: string): void => {
  process.stdout.write(text.endsWith('\n') ? text : `${text}\n`);
};

export const printJson = (value: unknown): void => print(JSON.stringify(value, null, 2));

/** Everything that is no result goes to stderr. */
export const tell = (text: string): void => {
  process.stderr.write(`${text}\n`);
};

/** Rows of cells as aligned columns, two spaces between them; the last column is left as long as it is. */
export function layOutTable(rows: readonly (readonly string[])[], rightAligned: ReadonlySet<number>): string {
  const widths: number[] = [];
  for (const row of rows) {
    for (const [at, cell] of row.entries()) widths[at] = Math.max(widths[at] ?? 0, cell.length);
  }
  return rows
    .map((row) =>
      row
        .map((cell, at) => {
          if (rightAligned.has(at)) return cell.padStart(widths[at] ?? 0);
          return at === row.length - 1 ? cell : cell.padEnd(widths[at] ?? 0);
        })
        .join('  '),
    )
    .join('\n');
}
