import type { NameValue } from '../model';

/** A request that a rehearsal is asked, in the captured site's own words: addresses of the rehearsal are taken back. */
export interface Asked {
  readonly method: string;
  /** Where it was asked, as `originOf` writes it; undefined where the address names no host. */
  readonly origin: string | undefined;
  readonly path: string;
  /** With its question mark; empty where there is none. */
  readonly query: string;
  /** As they arrived, in their order. */
  readonly headers: readonly NameValue[];
  readonly body: Uint8Array;
}

/** What is kept of a captured request for as long as a rehearsal runs. */
export interface CapturedRequest {
  readonly index: number;
  readonly method: string;
  readonly url: string;
  /** It opened a WebSocket. */
  readonly isSocket: boolean;
  /** As `hashPayload` gives it; undefined where no payload was recorded. */
  readonly payloadHash: number | undefined;
}

/** A path whose escapes are written one way (RFC 3986 6.2.2): capital hex, unreserved characters as themselves. */
export function normalPath(path: string): string {
  const whole = path === '' ? '/' : path;
  if (!/[%\s|"<>^`{}\\]|[^\x20-\x7e]/.test(whole)) return whole;
  const escaped = whole.replace(/[^\x21-\x7e]|["<>^`{}|\\]/gu, (character) =>
    encodeURIComponent(wellFormed(character)),
  );
  return escaped.replace(/%([0-9a-f]{2})/gi, (_, hex: string) => {
    const character = String.fromCharCode(Number.parseInt(hex, 16));
    return /[A-Za-z0-9._~-]/.test(character) ? character : `%${hex.toUpperCase()}`;
  });
}

/** Half a pair of surrogates is no character that can be written (ECMAScript 22.1.3.11). */
const wellFormed = (character: string): string => (/^[\ud800-\udfff]$/.test(character) ? '\ufffd' : character);
