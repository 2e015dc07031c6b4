import { splitUrl } from '../http';
import type { NameValue } from '../model';

/** "faithful" sends what the browser sent; "lean" leaves out what only browsers add. */
export type Preset = 'faithful' | 'lean';
export const PRESETS = ['faithful', 'lean'] as const satisfies readonly Preset[];

/** What a request header is for. The order is the match order of `headerRole`. */
export const HEADER_ROLES = ['computed', 'conditional', 'encoding', 'credential', 'browser-colour', 'own'] as const;
export type HeaderRole = (typeof HEADER_ROLES)[number];

/** Computed by whatever client sends the request (RFC 9110 7.6.1, 8.6; RFC 9113 8.3): never sent by hand. */
const COMPUTED = new Set([
  'content-length',
  'transfer-encoding',
  'connection',
  'keep-alive',
  'te',
  'trailer',
  'upgrade',
  'http2-settings',
  'expect',
]);
/** Turn the answer into an empty 304 or a part of the content (RFC 9110 13.1, 14.2). */
const CONDITIONAL = new Set([
  'if-none-match',
  'if-modified-since',
  'if-match',
  'if-unmodified-since',
  'if-range',
  'range',
]);
const BROWSER_COLOUR = new Set([
  'upgrade-insecure-requests',
  'dnt',
  'priority',
  'pragma',
  'cache-control',
  'referer',
  'origin',
  'purpose',
  'save-data',
]);
const CREDENTIAL = /^(cookie|authorization)$|(^|[-_])(token|key|secret|csrf|xsrf|session|auth)$|^x-(csrf|xsrf)/;

/** What a header is for, by its name; Host counts as computed only where the address says the same. */
export function headerRole(header: NameValue, url: string): HeaderRole {
  const name = header.name.toLowerCase();
  if (name.startsWith(':') || name.startsWith('proxy-') || COMPUTED.has(name)) return 'computed';
  if (name === 'host') return header.value === hostAndPort(url) ? 'computed' : 'own';
  if (CONDITIONAL.has(name)) return 'conditional';
  if (name === 'accept-encoding') return 'encoding';
  if (CREDENTIAL.test(name)) return 'credential';
  if (name.startsWith('sec-') || BROWSER_COLOUR.has(name)) return 'browser-colour';
  return 'own';
}

const hostAndPort = (url: string): string | undefined => splitUrl(url)?.authority.replace(/^.*@/s, '');

/** Whether a header is kept by default, and why. */
export function defaultFor(role: HeaderRole, preset: Preset): { readonly kept: boolean; readonly reason: string } {
  switch (role) {
    case 'computed':
      return { kept: false, reason: 'set by the HTTP client' };
    case 'conditional':
      return { kept: false, reason: 'conditional or range header: would return 304 or a partial body' };
    case 'encoding':
      return { kept: false, reason: 'replaced by the client’s automatic decompression' };
    case 'credential':
      return { kept: true, reason: 'credential' };
    case 'browser-colour':
      return preset === 'faithful'
        ? { kept: true, reason: 'browsers add it' }
        : { kept: false, reason: 'added by browsers only' };
    case 'own':
      return { kept: true, reason: 'it is part of the request itself' };
    default:
      return role satisfies never;
  }
}
