import { isLoopback, readCookieDate, splitUrl } from '../http';
import { bytesFromText } from './bytes';

/** Control characters but for the tab (6265bis 5.6). */
// biome-ignore lint/suspicious/noControlCharactersInRegex: these are what is looked for.
const CONTROL = /[\0-\x08\x0a-\x1f\x7f]/;
/** Name and value together (6265bis 5.6). */
const MOST_BYTES = 4096;
/** A host that is an address, and so has no domain above it. */
const ADDRESS = /^(?:\d{1,3}(?:\.\d{1,3}){3}|\[.*\])$/;

/** A cookie that a response set (RFC 6265 4.1, 5.2). */
export interface SetCookie {
  readonly name: string;
  readonly value: string;
  readonly domain: string | undefined;
  readonly path: string | undefined;
  readonly isSecure: boolean;
  readonly isHttpOnly: boolean;
  readonly sameSite: string | undefined;
  /** Kept apart for each site whose pages embed the one that sets it. */
  readonly isPartitioned: boolean;
  /** When it ends, in ms since 1970, by Max-Age before Expires; "session" where the browser decides. */
  readonly endsAt: number | 'session' | undefined;
  /** What browsers make nothing of. */
  readonly unknown: readonly string[];
  /** A control character stands somewhere in the line. */
  readonly hasControls: boolean;
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

/** Of an attribute that is longer browsers make nothing (6265bis 5.6). */
const MOST_ATTRIBUTE_BYTES = 1024;

/**
 * Reads one Set-Cookie value as browsers do (RFC 6265 5.2, 6265bis 5.6): the last of repeated attributes wins, unknown ones
 * are kept aside; what has no "=" is a value without a name. Undefined where nothing is there.
 * @param at when the response came, in ms since 1970, from which Max-Age counts
 */
export function readSetCookie(value: string, at: number | undefined): SetCookie | undefined {
  const [pair = '', ...attributes] = value.split(';');
  if (value.trim() === '') return undefined;
  const equals = pair.indexOf('=');
  let domain: string | undefined;
  let path: string | undefined;
  let sameSite: string | undefined;
  let isSecure = false;
  let isHttpOnly = false;
  let isPartitioned = false;
  let maxAge: number | undefined;
  let expires: number | undefined;
  const unknown: string[] = [];
  for (const attribute of attributes) {
    const cut = attribute.indexOf('=');
    const name = (cut === -1 ? attribute : attribute.slice(0, cut)).trim().toLowerCase();
    const content = cut === -1 ? '' : attribute.slice(cut + 1).trim();
    if (content.length > MOST_ATTRIBUTE_BYTES) continue;
    if (name === 'domain') domain = content.replace(/^\./, '').toLowerCase() || undefined;
    else if (name === 'path') path = content.startsWith('/') ? content : undefined;
    else if (name === 'secure') isSecure = true;
    else if (name === 'httponly') isHttpOnly = true;
    else if (name === 'samesite') sameSite = content;
    else if (name === 'partitioned') isPartitioned = true;
    else if (name === 'max-age') maxAge = /^-?\d+$/.test(content) ? Number(content) : maxAge;
    else if (name === 'expires') expires = readCookieDate(content) ?? expires;
    else if (name !== '') unknown.push(attribute.trim());
  }
  // Max-Age counts from when the response came; without that instant its end is not known.
  const endsAt = maxAge === undefined ? (expires ?? 'session') : at === undefined ? undefined : at + maxAge * 1000;
  return {
    name: pair.slice(0, Math.max(0, equals)).trim(),
    value: pair.slice(equals + 1).trim(),
    domain,
    path,
    isSecure,
    isHttpOnly,
    isPartitioned,
    sameSite,
    endsAt,
    unknown,
    hasControls: CONTROL.test(value.trim()),
  };
}

/** Whether Secure cookies go to an address: over TLS, or to this computer. */
export const takesSecureCookies = (url: string): boolean => /^(?:https|wss):/i.test(url) || isLoopback(url);

/** Why a browser does not keep a cookie, or does not send it back; none where nothing stands against it. */
export type CookieObstacle =
  | 'insecure-page'
  | 'other-domain'
  | 'public-suffix'
  | 'same-site-none-insecure'
  | 'already-over'
  | 'partitioned-insecure'
  | 'prefix-broken'
  | 'too-large'
  | 'control-character'
  | 'no-name';

/**
 * What stands against a cookie by its own attributes and where it was set (RFC 6265 5.3; SameSite and the name prefixes
 * as in its revision, 6265bis 4.1.3 and 5.7), in match order.
 */
export function findObstacles(cookie: SetCookie, url: string, at: number | undefined): CookieObstacle[] {
  const obstacles: CookieObstacle[] = [];
  const host = splitUrl(url)?.host.toLowerCase() ?? '';
  if (cookie.name === '' && cookie.value === '') obstacles.push('no-name');
  if (cookie.isSecure && !takesSecureCookies(url)) obstacles.push('insecure-page');
  const { domain } = cookie;
  if (domain !== undefined && host !== domain) {
    if (ADDRESS.test(host) || !host.endsWith(`.${domain}`)) obstacles.push('other-domain');
    // That of a top-level domain; others that no one owns only a list could tell.
    else if (!domain.includes('.')) obstacles.push('public-suffix');
  }
  if (cookie.sameSite?.toLowerCase() === 'none' && !cookie.isSecure) obstacles.push('same-site-none-insecure');
  if (cookie.isPartitioned && !cookie.isSecure) obstacles.push('partitioned-insecure');
  if (hasBrokenPrefix(cookie)) obstacles.push('prefix-broken');
  if (bytesFromText(cookie.name + cookie.value).length > MOST_BYTES) obstacles.push('too-large');
  if (cookie.hasControls) obstacles.push('control-character');
  if (typeof cookie.endsAt === 'number' && at !== undefined && cookie.endsAt <= at) obstacles.push('already-over');
  return obstacles;
}

/** Whether its name begins with a prefix that demands what it has not, in whatever case; without a name, its value (6265bis 4.1.3). */
function hasBrokenPrefix({ name, value, isSecure, isHttpOnly, domain, path }: SetCookie): boolean {
  if (name === '') return /^__(?:host|secure|http|host-http)-/i.test(value);
  const isOfHost = isSecure && domain === undefined && path === '/';
  if (/^__host-http-/i.test(name)) return !isOfHost || !isHttpOnly;
  if (/^__host-/i.test(name)) return !isOfHost;
  if (/^__http-/i.test(name)) return !isSecure || !isHttpOnly;
  return /^__secure-/i.test(name) && !isSecure;
}
