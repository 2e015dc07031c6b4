/** Elements whose content is no text of the page (HTML 13.1.2, 4.12). */
const SILENT = /^<(script|style|template|noscript)\b/i;

/** Whether a text is a page: told by how it begins. */
export const isPage = (text: string): boolean => /^\s*(?:<!--|<!doctype html|<html\b)/i.test(text.slice(0, 2000));

/** What a page says, a line for each run of text between two tags, blanks made one. No element is understood, only left out. */
export function pageText(page: string): string {
  const lines: string[] = [];
  let at = 0;
  const take = (end: number): void => {
    const line = page.slice(at, end).replace(/\s+/g, ' ').trim();
    if (line !== '') lines.push(line);
  };
  while (at < page.length) {
    const open = page.indexOf('<', at);
    if (open === -1) break;
    take(open);
    at = endOfTag(page, open);
  }
  take(page.length);
  return lines.join('\n');
}

/** Behind a tag, a comment, or an element that says nothing, with its content. */
function endOfTag(page: string, open: number): number {
  const behind = (mark: string, from: number): number => {
    const found = page.indexOf(mark, from);
    return found === -1 ? page.length : found + mark.length;
  };
  if (page.startsWith('<!--', open)) return behind('-->', open + 4);
  const silent = SILENT.exec(page.slice(open, open + 16))?.[1];
  const end = behind('>', open);
  if (silent === undefined) return end;
  // Written in small letters as nearly everybody does; in others the rest is taken for its content.
  return behind('>', behind(`</${silent}`, end));
}
