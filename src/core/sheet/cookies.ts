import type { NameValue } from '../model';
import { withHeaderLine } from './header-line';
import { splitSheet } from './read';
import { type Sheet, unstruck } from './sheet';

/**
 * The sheet with cookies in its Cookie header (RFC 6265 5.4): those of a name that is there take its place, others come
 * behind. Without such a header one is added behind the last, or before a payload.
 */
export function withCookies(sheet: Sheet, cookies: readonly NameValue[]): Sheet {
  if (cookies.length === 0) return sheet;
  const lines = splitSheet(sheet);
  const texts = lines.map(({ text }) => text);
  const at = lines.findIndex(({ kind, text }) => kind === 'header' && /^cookie:/i.test(unstruck(text)));
  if (at !== -1) {
    const line = unstruck(texts[at] ?? '');
    const colon = line.indexOf(':');
    const pairs = line
      .slice(colon + 1)
      .split(';')
      .map((pair) => pair.trim())
      .filter(Boolean);
    texts[at] = `${line.slice(0, colon)}: ${merged(pairs, cookies)}`;
    return { ...sheet, text: texts.join('\n') };
  }
  return { ...sheet, text: withHeaderLine(lines, `Cookie: ${merged([], cookies)}`) };
}

function merged(pairs: readonly string[], cookies: readonly NameValue[]): string {
  const nameOf = (pair: string): string => pair.split('=', 1)[0] ?? '';
  const fresh = new Map(cookies.map(({ name, value }) => [name, `${name}=${value}`]));
  const kept = pairs.map((pair) => {
    const next = fresh.get(nameOf(pair)) ?? pair;
    fresh.delete(nameOf(pair));
    return next;
  });
  return [...kept, ...fresh.values()].join('; ');
}
