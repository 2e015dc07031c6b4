import { readSetCookie, whyNotSent } from '../content';
import type { NameValue } from '../model';
import { withHeaderLine } from './header-line';
import { splitSheet } from './read';
import { type Sheet, unstruck } from './sheet';

/** What a response does to the cookies of its next request. */
export interface CookieChanges {
  /** Those that it sets, the last of each name. */
  readonly set: readonly NameValue[];
  /** Names of those that it ends. */
  readonly ended: readonly string[];
}

/**
 * What Set-Cookie lines change in what the next request to the same address carries (RFC 6265 5.3, 5.4): not those that
 * clients do not keep, nor those of another path.
 * @param url of the request that the response answers
 * @param at when the response came, in ms since 1970
 */
export function cookieChanges(lines: readonly string[], url: string, at: number): CookieChanges {
  const here = { url, startedAt: at };
  const next = { ...here, isCrossSite: false, manner: 'request', sent: [] } as const;
  const values = new Map<string, string | undefined>();
  for (const line of lines) {
    const cookie = readSetCookie(line, at);
    if (cookie === undefined || cookie.name === '') continue;
    const why = whyNotSent(cookie, here, next);
    if (why === 'over') values.set(cookie.name, undefined);
    // Nothing else stands against it than that this request carries none.
    if (why === 'without-credentials') values.set(cookie.name, cookie.value);
  }
  return {
    set: [...values].flatMap(([name, value]) => (value === undefined ? [] : { name, value })),
    ended: [...values].flatMap(([name, value]) => (value === undefined ? name : [])),
  };
}

/**
 * The sheet with its Cookie header changed (RFC 6265 5.4): cookies of a name that is there take its place, others come
 * behind, those that are ended go. Without such a header one is added behind the last, or before a payload.
 */
export function withCookies(sheet: Sheet, changes: CookieChanges): Sheet {
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
    const value = merged(pairs, changes);
    if (value === '') texts.splice(at, 1);
    else texts[at] = `${line.slice(0, colon)}: ${value}`;
    return { ...sheet, text: texts.join('\n') };
  }
  const value = merged([], changes);
  return value === '' ? sheet : { ...sheet, text: withHeaderLine(lines, `Cookie: ${value}`) };
}

function merged(pairs: readonly string[], { set, ended }: CookieChanges): string {
  const nameOf = (pair: string): string => pair.split('=', 1)[0]?.trim() ?? '';
  const fresh = new Map(set.map(({ name, value }) => [name, `${name}=${value}`]));
  const kept = pairs
    .filter((pair) => !ended.includes(nameOf(pair)))
    .map((pair) => {
      const next = fresh.get(nameOf(pair)) ?? pair;
      fresh.delete(nameOf(pair));
      return next;
    });
  return [...kept, ...fresh.values()].join('; ');
}
