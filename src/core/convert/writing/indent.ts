/** Lines moved to the right; empty ones stay empty. */
export const indentLines = (lines: readonly string[], by: string): string[] =>
  lines.map((line) => (line === '' ? '' : by + line));

/** The same of pieces that are lines together. */
export const indentAll = (pieces: readonly string[], by: string): string[] =>
  indentLines(
    pieces.flatMap((piece) => piece.split('\n')),
    by,
  );
