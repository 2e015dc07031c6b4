import { ACTED_ON, inLine, visible } from '#core/wording';

/** Writes a result that people read on stdout: nothing captured breaks its lines or drives the terminal. */
export const printLines = (lines: readonly string[]): void => print(lines.map(inLine).join('\n'));

/** Writes a result on stdout, to the letter. */
export const print = (text: string): void => {
  process.stdout.write(text.endsWith('\n') ? text : `${text}\n`);
};

/** JSON in which what a terminal would act on stands as its escape, which is the same to whoever reads JSON. */
export const printJson = (value: unknown): void =>
  print(
    JSON.stringify(value, null, 2).replace(
      ACTED_ON,
      (character) => `\\u${character.charCodeAt(0).toString(16).padStart(4, '0')}`,
    ),
  );

/**
 * Writes a result on stdout to the letter, as code and messages have to be; a terminal, which would act on some characters,
 * is shown their escapes instead, and that is said.
 */
export function printExactly(result: string | Uint8Array, isTerminal = process.stdout.isTTY): void {
  if (typeof result !== 'string' && !isTerminal) {
    process.stdout.write(result);
    return;
  }
  const text = typeof result === 'string' ? result : new TextDecoder().decode(result);
  const shown = isTerminal ? visible(text) : text;
  process.stdout.write(shown);
  if (shown !== text) {
    tell('The output contains control characters, shown here as escapes. Redirect it to a file to get it exactly.');
  }
}

/** Everything that is no result goes to stderr. */
export const tell = (text: string): void => {
  process.stderr.write(`${visible(text)}\n`);
};

/** Rows of cells as aligned columns, two spaces between them; the last column is left as long as it is. */
export function layOutTable(rows: readonly (readonly string[])[], rightAligned: ReadonlySet<number>): string[] {
  const widths: number[] = [];
  const shown = rows.map((row) => row.map(inLine));
  for (const row of shown) {
    for (const [at, cell] of row.entries()) widths[at] = Math.max(widths[at] ?? 0, cell.length);
  }
  return shown.map((row) =>
    row
      .map((cell, at) => {
        if (rightAligned.has(at)) return cell.padStart(widths[at] ?? 0);
        return at === row.length - 1 ? cell : cell.padEnd(widths[at] ?? 0);
      })
      .join('  '),
  );
}
