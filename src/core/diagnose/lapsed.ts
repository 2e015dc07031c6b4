import type { ExchangeRow } from '../analysis';
import { readSentCookies, readSetCookie, type SetCookie, whyNotSent } from '../content';
import type { Subject } from './finding';
import { called } from './say';

/** Why a request was refused: what had run out, and when, in ms since 1970. */
export interface Expired {
  readonly what: string;
  readonly endedAt: number;
  readonly remedy: string;
}

/** What had run out by the time a request was made that was refused: its token by its own claim, or a cookie. */
export function findExpired(subject: Subject, row: ExchangeRow): Expired | undefined {
  if (row.status !== 401 && row.status !== 403) return undefined;
  const { startedAt } = row;
  const endedAt = subject.evidenceOf(row.index)?.tokenExpiresAt;
  if (endedAt !== undefined && startedAt !== undefined && endedAt < startedAt) {
    return {
      what: 'its token',
      endedAt,
      remedy: 'Renew the token shortly before it runs out: its own exp claim says when.',
    };
  }
  const cookie = findLapsedCookie(subject, row);
  return cookie === undefined
    ? undefined
    : {
        what: `the cookie ${cookie.name}, set by ${called(cookie.setBy)} (#${cookie.setBy.index}),`,
        endedAt: cookie.endedAt,
        remedy: 'Let the server set the cookie again with each answer, or have the page renew it before it lapses.',
      };
}

/** A cookie that a request would have carried, had it not run out before. */
export interface LapsedCookie {
  readonly name: string;
  readonly endedAt: number;
  /** The exchange whose answer had set it. */
  readonly setBy: ExchangeRow;
}

/** What had run out by the time a request was made, of the cookies that were set earlier in the capture (RFC 6265 5.3). */
export function findLapsedCookie(subject: Subject, refused: ExchangeRow): LapsedCookie | undefined {
  const { startedAt } = refused;
  if (startedAt === undefined) return undefined;
  const evidence = subject.evidenceOf(refused.index);
  const sent = [evidence?.requestHeaders.get('cookie') ?? ''].filter((value) => value !== '');
  const carried = new Set(sent.flatMap(readSentCookies).map(({ name }) => name));
  const use = { ...refused, isNavigation: refused.kind === 'document', sent };
  const jar = new Map<string, { readonly cookie: SetCookie; readonly setBy: ExchangeRow }>();
  for (const row of subject.cookieSetters()) {
    if (row.startedAt === undefined || row.startedAt >= startedAt) continue;
    for (const line of subject.evidenceOf(row.index)?.setCookies ?? []) {
      const cookie = readSetCookie(line, row.startedAt);
      if (cookie === undefined || carried.has(cookie.name)) continue;
      const before = jar.get(cookie.name);
      if (before === undefined || (before.setBy.startedAt ?? 0) <= row.startedAt) {
        jar.set(cookie.name, { cookie, setBy: row });
      }
    }
  }
  for (const { cookie, setBy } of jar.values()) {
    if (typeof cookie.endsAt !== 'number' || whyNotSent(cookie, setBy, use) !== 'over') continue;
    return { name: cookie.name, endedAt: cookie.endsAt, setBy };
  }
  return undefined;
}
