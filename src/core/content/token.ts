import { bytesFromBase64 } from './bytes';

/** A JSON Web Token (RFC 7519) taken apart. Nobody here has its key: whether it is genuine is not said. */
export interface WebToken {
  readonly type: 'jwt';
  readonly header: Readonly<Record<string, unknown>>;
  readonly claims: Readonly<Record<string, unknown>>;
  /** In ms since 1970 (claims exp, nbf, iat: RFC 7519 4.1.4 to 4.1.6). */
  readonly expiresAt: number | undefined;
  readonly notBefore: number | undefined;
  readonly issuedAt: number | undefined;
}

/** User and password of basic authentication (RFC 7617 2). */
export interface BasicCredentials {
  readonly type: 'basic';
  readonly user: string;
  readonly password: string;
}

export type Credentials = WebToken | BasicCredentials;

/** Takes apart what an Authorization value, a cookie or a parameter holds; undefined where that is neither of the two. */
export function readCredentials(value: string): Credentials | undefined {
  const basic = /^basic\s+([A-Za-z0-9+/=_-]+)$/i.exec(value.trim())?.[1];
  if (basic !== undefined) return readBasic(basic);
  const token = /(?:^|\s)([A-Za-z0-9_-]{8,}\.[A-Za-z0-9_-]{8,}\.[A-Za-z0-9_-]*)$/.exec(value.trim())?.[1];
  return token === undefined ? undefined : readWebToken(token);
}

function readBasic(encoded: string): BasicCredentials | undefined {
  const text = textOf(encoded);
  const colon = text?.indexOf(':') ?? -1;
  if (text === undefined || colon === -1) return undefined;
  return { type: 'basic', user: text.slice(0, colon), password: text.slice(colon + 1) };
}

function readWebToken(token: string): WebToken | undefined {
  const [first = '', second = ''] = token.split('.');
  const header = objectOf(first);
  const claims = objectOf(second);
  if (header === undefined || claims === undefined || typeof header['alg'] !== 'string') return undefined;
  const instant = (name: string): number | undefined => {
    const seconds = claims[name];
    return typeof seconds === 'number' && Number.isFinite(seconds) ? seconds * 1000 : undefined;
  };
  return {
    type: 'jwt',
    header,
    claims,
    expiresAt: instant('exp'),
    notBefore: instant('nbf'),
    issuedAt: instant('iat'),
  };
}

function objectOf(encoded: string): Record<string, unknown> | undefined {
  try {
    const value: unknown = JSON.parse(textOf(encoded) ?? '');
    return typeof value === 'object' && value !== null && !Array.isArray(value)
      ? (value as Record<string, unknown>)
      : undefined;
  } catch {
    return undefined;
  }
}

/** Base64 of either alphabet, padded or not, as UTF-8 text. */
function textOf(encoded: string): string | undefined {
  const plain = encoded.replaceAll('-', '+').replaceAll('_', '/').replace(/=+$/, '');
  const bytes = bytesFromBase64(plain.padEnd(Math.ceil(plain.length / 4) * 4, '='));
  return bytes === undefined ? undefined : new TextDecoder().decode(bytes);
}

/** How a token stood at an instant, in words: "valid 14 min more", "had run out 3 s before". */
export type Standing =
  | { readonly type: 'valid'; readonly forMs: number }
  | { readonly type: 'expired'; readonly sinceMs: number }
  | { readonly type: 'not-yet'; readonly inMs: number }
  | { readonly type: 'unknown' };

/** Whether a token was valid at an instant, by its own claims. */
export function standingAt(token: WebToken, at: number | undefined): Standing {
  if (at === undefined) return { type: 'unknown' };
  if (token.notBefore !== undefined && at < token.notBefore) return { type: 'not-yet', inMs: token.notBefore - at };
  if (token.expiresAt === undefined) return { type: 'unknown' };
  return at < token.expiresAt
    ? { type: 'valid', forMs: token.expiresAt - at }
    : { type: 'expired', sinceMs: at - token.expiresAt };
}
