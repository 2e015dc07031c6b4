import type { SheetLine } from './read';

/** The text of a sheet with one header more, behind the others; where there are none, between address and payload. */
export function withHeaderLine(lines: readonly SheetLine[], header: string): string {
  const texts = lines.map(({ text }) => text);
  const last = lines.findLastIndex(({ kind }) => kind !== 'payload' && kind !== 'gap');
  const isHeader = lines[last]?.kind === 'header';
  texts.splice(last + 1, 0, ...(isHeader ? [header] : ['', header]));
  // Without headers two blank lines stood before the payload.
  if (!isHeader && lines[last + 1]?.kind === 'gap') texts.splice(last + 3, 1);
  return texts.join('\n');
}
