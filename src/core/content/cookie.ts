import { readCookieDate, splitUrl } from '../http';
/** A cookie that a response set (RFC 6265 4.1, 5.2). */
export interface SetCookie {
  readonly name: string;
  readonly value: string;
  readonly domain: string | undefined;
  readonly path: string | undefined;
  readonly isSecure: boolean;
  readonly isHttpOnly: boolean;
  readonly sameSite: string | undefined;
  /** When it ends, in ms since 1970, by Max-Age before Expires; "session" where the browser decides. */
  readonly endsAt: number | 'session' | undefined;
  /** What browsers make nothing of. */
  readonly unknown: readonly string[];
}

/** The cookies that a request sent (RFC 6265 4.2.1), each as it stands. */
export function readSentCookies(value: string): { readonly name: string; readonly value: string }[] {
  return value.split(';').flatMap((pair) => {
    const trimmed = pair.trim();
    if (trimmed === '') return [];
    const equals = trimmed.indexOf('=');
    return equals === -1
      ? { name: '', value: trimmed }
      : { name: trimmed.slice(0, equals).trim(), value: trimmed.slice(equals + 1).trim() };
  });
}

/**
 * Reads one Set-Cookie value as browsers do (RFC 6265 5.2): the last of repeated attributes wins, unknown ones are kept
 * aside. Undefined where there is no name and value.
 * @param at when the response came, in ms since 1970, from which Max-Age counts
 */
export function readSetCookie(value: string, at: number | undefined): SetCookie | undefined {
  const [pair = '', ...attributes] = value.split(';');
  const equals = pair.indexOf('=');
  if (equals === -1) return undefined;
  let domain: string | undefined;
  let path: string | undefined;
  let sameSite: string | undefined;
  let isSecure = false;
  let isHttpOnly = false;
  let maxAge: number | undefined;
  let expires: number | undefined;
  const unknown: string[] = [];
  for (const attribute of attributes) {
    const cut = attribute.indexOf('=');
    const name = (cut === -1 ? attribute : attribute.slice(0, cut)).trim().toLowerCase();
    const content = cut === -1 ? '' : attribute.slice(cut + 1).trim();
    if (name === 'domain') domain = content.replace(/^\./, '').toLowerCase() || undefined;
    else if (name === 'path') path = content.startsWith('/') ? content : undefined;
    else if (name === 'secure') isSecure = true;
    else if (name === 'httponly') isHttpOnly = true;
    else if (name === 'samesite') sameSite = content;
    else if (name === 'max-age') maxAge = /^-?\d+$/.test(content) ? Number(content) : maxAge;
    else if (name === 'expires') expires = readCookieDate(content) ?? expires;
    else if (name !== '') unknown.push(attribute.trim());
  }
  // Max-Age counts from when the response came; without that instant its end is not known.
  const endsAt = maxAge === undefined ? (expires ?? 'session') : at === undefined ? undefined : at + maxAge * 1000;
  const name = pair.slice(0, equals).trim();
  return { name, value: pair.slice(equals + 1).trim(), domain, path, isSecure, isHttpOnly, sameSite, endsAt, unknown };
}

/** Why a browser does not keep a cookie, or does not send it back; none where nothing stands against it. */
export type CookieObstacle =
  | 'insecure-page'
  | 'other-domain'
  | 'same-site-none-insecure'
  | 'already-over'
  | 'prefix-broken'
  | 'no-name';

/**
 * What stands against a cookie by its own attributes and where it was set (RFC 6265 5.3; SameSite and the name prefixes
 * as in its revision, 6265bis 4.1.3 and 5.7), in match order.
 */
export function findObstacles(cookie: SetCookie, url: string, at: number | undefined): CookieObstacle[] {
  const obstacles: CookieObstacle[] = [];
  const isHttps = /^(https|wss):/i.test(url);
  const host = splitUrl(url)?.host.toLowerCase() ?? '';
  const isLoopback = host === 'localhost' || host.endsWith('.localhost');
  if (cookie.name === '' && cookie.value === '') obstacles.push('no-name');
  if (cookie.isSecure && !isHttps && !isLoopback) obstacles.push('insecure-page');
  const { domain } = cookie;
  if (domain !== undefined && host !== domain && !host.endsWith(`.${domain}`)) obstacles.push('other-domain');
  if (cookie.sameSite?.toLowerCase() === 'none' && !cookie.isSecure) obstacles.push('same-site-none-insecure');
  const isHostPrefixed = cookie.name.startsWith('__Host-');
  const isBroken = isHostPrefixed && (!cookie.isSecure || domain !== undefined || cookie.path !== '/');
  if (isBroken || (cookie.name.startsWith('__Secure-') && !cookie.isSecure)) obstacles.push('prefix-broken');
  if (typeof cookie.endsAt === 'number' && at !== undefined && cookie.endsAt <= at) obstacles.push('already-over');
  return obstacles;
}
