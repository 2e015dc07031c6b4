import { splitUrl } from '../http';
import { findObstacles, readSentCookies, readSetCookie, type SetCookie, takesSecureCookies } from './cookie';

/** How a request came about: a page that is gone to by a safe method, another document, or what a page asks for. */
export type CookieManner = 'visit' | 'document' | 'request';

/** What one exchange had to do with cookies: the headers as they stand, and what decides over sending. */
export interface CookieUse {
  readonly index: number;
  readonly url: string;
  /** In ms since 1970. */
  readonly startedAt: number | undefined;
  /** It went to another site than the page's, or came from one. */
  readonly isCrossSite: boolean;
  readonly manner: CookieManner;
  /** Values of its Cookie and Set-Cookie headers. */
  readonly sent: readonly string[];
  readonly set: readonly string[];
}

/** A moment at which a cookie was seen with another value than before, or for the first time. */
export interface CookieStep {
  readonly index: number;
  readonly how: 'sent' | 'set' | 'deleted';
  readonly value: string;
}

/** Why a request did not carry a cookie that had been set, in match order. */
export type NotSentReason =
  | 'dropped'
  | 'other-host'
  | 'other-path'
  | 'over'
  | 'plain-http'
  | 'other-site'
  | 'without-credentials'
  | 'unknown';

export interface CookieTrail {
  readonly name: string;
  /** Where it was first seen and where it changed, in the order of the capture. */
  readonly steps: readonly CookieStep[];
  /** How many later requests carried it, and the first that it was meant for but that did not. */
  readonly sentLater: number;
  readonly missedBy: { readonly index: number; readonly reason: NotSentReason } | undefined;
  /** Why no later request carried it; absent where one did, or where the capture never set it. */
  readonly neverSent: NotSentReason | 'no-later-request' | undefined;
}

const MOST_STEPS = 200;

/**
 * Follows a cookie through a capture (RFC 6265 5.3, 5.4; SameSite by 6265bis 5.5).
 * @param uses every exchange that may have to do with it, in the order of their starts
 * @param from the exchange it is asked about: sending is told from there on
 */
export function followCookie(name: string, uses: readonly CookieUse[], from: number): CookieTrail {
  const steps: CookieStep[] = [];
  let known: string | undefined;
  let jar: { readonly cookie: SetCookie; readonly use: CookieUse } | undefined;
  let isPast = false;
  let sentLater = 0;
  let missedBy: CookieTrail['missedBy'];
  let passedBy: NotSentReason | undefined;
  const step = (index: number, how: CookieStep['how'], value: string): void => {
    if (steps.length < MOST_STEPS) steps.push({ index, how, value });
    known = how === 'deleted' ? undefined : value;
  };
  for (const use of uses) {
    const sent = use.sent.flatMap(readSentCookies).find((cookie) => cookie.name === name);
    if (sent !== undefined && sent.value !== known) step(use.index, 'sent', sent.value);
    if (isPast && sent !== undefined) sentLater++;
    if (isPast && sent === undefined && jar !== undefined) {
      const reason = whyNotSent(jar.cookie, jar.use, use);
      if (!IS_NOT_FOR_IT.has(reason)) missedBy ??= { index: use.index, reason };
      else if (reason !== 'other-host') passedBy ??= reason;
    }
    for (const line of use.set) {
      const cookie = readSetCookie(line, use.startedAt);
      if (cookie?.name !== name) continue;
      jar = { cookie, use };
      const isOver = typeof cookie.endsAt === 'number' && use.startedAt !== undefined && cookie.endsAt <= use.startedAt;
      if (isOver) step(use.index, 'deleted', cookie.value);
      else if (cookie.value !== known) step(use.index, 'set', cookie.value);
    }
    if (use.index === from) isPast = true;
  }
  const isUnused = jar !== undefined && sentLater === 0;
  const neverSent = isUnused ? (missedBy?.reason ?? passedBy ?? 'no-later-request') : undefined;
  return { name, steps, sentLater, missedBy, neverSent };
}

/** Reasons by which a request is none of the cookie's business. */
const IS_NOT_FOR_IT: ReadonlySet<NotSentReason> = new Set(['other-host', 'other-path', 'dropped']);

/**
 * Why a request did not carry a cookie, in match order (RFC 6265 5.4).
 * @param setBy the exchange whose answer set it
 */
export function whyNotSent(
  cookie: SetCookie,
  setBy: Pick<CookieUse, 'url' | 'startedAt'>,
  use: Pick<CookieUse, 'url' | 'startedAt' | 'isCrossSite' | 'manner' | 'sent'>,
): NotSentReason {
  const [from, to] = [hostAndPath(setBy.url), hostAndPath(use.url)];
  const obstacles = findObstacles(cookie, setBy.url, setBy.startedAt).filter((one) => one !== 'already-over');
  const { domain } = cookie;
  const isHost = domain === undefined ? to.host === from.host : to.host === domain || to.host.endsWith(`.${domain}`);
  if (!isHost) return 'other-host';
  if (obstacles.length > 0) return 'dropped';
  if (!pathMatches(to.path, cookie.path ?? defaultPath(from.path))) return 'other-path';
  if (typeof cookie.endsAt === 'number' && use.startedAt !== undefined && cookie.endsAt <= use.startedAt) return 'over';
  if (cookie.isSecure && !takesSecureCookies(use.url)) return 'plain-http';
  if (use.isCrossSite && !isSentAcross(cookie, use.manner)) return 'other-site';
  // Documents are always asked for with credentials (Fetch 2.2.5).
  return use.sent.length === 0 && use.manner === 'request' ? 'without-credentials' : 'unknown';
}

/** Whether a cookie goes to another site: what is not one of the three values counts as Lax (6265bis 4.1.2.7, 5.7). */
function isSentAcross({ sameSite }: SetCookie, manner: CookieManner): boolean {
  const kept = sameSite?.toLowerCase();
  return kept === 'none' || (kept !== 'strict' && manner === 'visit');
}

function hostAndPath(url: string): { readonly host: string; readonly path: string } {
  const parts = splitUrl(url);
  return { host: parts?.host.toLowerCase() ?? '', path: parts?.path || '/' };
}

/** RFC 6265 5.1.4. */
export const defaultPath = (path: string): string => path.slice(0, Math.max(1, path.lastIndexOf('/')));
const pathMatches = (path: string, wanted: string): boolean =>
  path === wanted || (path.startsWith(wanted) && (wanted.endsWith('/') || path[wanted.length] === '/'));

/** Whether a Set-Cookie value gives its browser a cookie that every later request to the host is to carry. */
export function isForWholeHost(value: string, url: string, at: number | undefined): boolean {
  const cookie = readSetCookie(value, at);
  if (cookie === undefined || findObstacles(cookie, url, at).length > 0) return false;
  return (cookie.path ?? defaultPath(splitUrl(url)?.path ?? '/')) === '/';
}
