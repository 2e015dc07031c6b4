import type { ExchangeRow } from '../analysis';
import { readSentCookies, readSetCookie, type SetCookie, whyNotSent } from '../content';
import type { Subject } from './finding';
import { called } from './say';

/** Why a request was refused: what had run out, and how long before, in ms. */
export interface Expired {
  readonly what: string;
  readonly agoMs: number;
  readonly remedy: string;
}

/** What had run out by the time a request was made that was refused: its token by its own claim, or its session's cookie. */
export function findExpired(subject: Subject, row: ExchangeRow): Expired | undefined {
  if (row.status !== 401 && row.status !== 403) return undefined;
  const { startedAt } = row;
  const evidence = subject.evidenceOf(row.index);
  if (startedAt === undefined || evidence === undefined) return undefined;
  // By the clock of the server that judged it.
  const sentAt = startedAt + (subject.clockOf(row.host) ?? 0);
  const endedAt = evidence.tokenExpiresAt;
  // A 403 may have any reason: who may not do it is refused with the best of tokens.
  const isRefusal = row.status === 401 || evidence.saysExpired;
  if (isRefusal && endedAt !== undefined && endedAt < sentAt) {
    return {
      what: 'its token',
      agoMs: sentAt - endedAt,
      remedy: 'Renew the token shortly before it expires: its own exp claim says when.',
    };
  }
  const cookie = isRefusal ? findLapsedCookie(subject, row) : undefined;
  if (cookie === undefined || !wasOfSession(subject, row, cookie.name)) return undefined;
  return {
    what: `the cookie ${cookie.name}, set by ${called(cookie.setBy)} (#${cookie.setBy.index}),`,
    agoMs: startedAt - cookie.endedAt,
    remedy: 'Let the server set the cookie again with each response, or have the page renew it before it expires.',
  };
}

/** A cookie that earlier calls to the host were accepted with. */
function wasOfSession(subject: Subject, refused: ExchangeRow, name: string): boolean {
  return subject.rows.some(
    (row) =>
      row.host === refused.host &&
      row.failure === undefined &&
      row.status !== undefined &&
      (row.startedAt ?? 0) < (refused.startedAt ?? 0) &&
      readSentCookies(subject.evidenceOf(row.index)?.requestHeaders.get('cookie') ?? '').some(
        (sent) => sent.name === name,
      ),
  );
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
  const use = { ...refused, isCrossSite: false, manner: 'request' as const, sent };
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
    // What ends before it was set was deleted: signing out is no expiry.
    if (typeof cookie.endsAt !== 'number' || cookie.endsAt <= (setBy.startedAt ?? 0)) continue;
    if (whyNotSent(cookie, setBy, use) !== 'over') continue;
    return { name: cookie.name, endedAt: cookie.endsAt, setBy };
  }
  return undefined;
}
