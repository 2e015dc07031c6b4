/** A text in pieces no longer than this, never through a surrogate pair. */
export function chunksOf(text: string, length: number): string[] {
  const chunks: string[] = [];
  for (let at = 0; at < text.length; ) {
    let end = Math.min(text.length, at + length);
    if (end < text.length && /[\ud800-\udbff]/.test(text[end - 1] ?? '')) end--;
    chunks.push(text.slice(at, end));
    at = end;
  }
  return chunks.length === 0 ? [''] : chunks;
}
