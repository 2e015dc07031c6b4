import { findSecrets, isSecretName } from '../content';
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
/** Turn the response to GET and HEAD into an empty 304 (RFC 9110 13.1.2, 13.1.3); of other methods they protect. */
const CONDITIONAL = new Set(['if-none-match', 'if-modified-since']);
/** Ask for a part of the content (RFC 9110 14.2, 13.1.5). */
const RANGE = new Set(['range', 'if-range']);
const PARTIAL_CONTENT = 206;
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
/** What is known of the request besides the header. */
export interface HeaderContext {
  readonly url: string;
  readonly method: string;
  /** The captured status; undefined where none is known, as of a pasted request. */
  readonly status?: number | undefined;
}

/**
 * What a header is for, by its name and what it says. Host counts as computed only where the address says the same; a range
 * as conditional only where the captured response was whole, and If-Match never: it protects what others have written.
 */
export function headerRole(header: NameValue, { url, method, status }: HeaderContext): HeaderRole {
  const name = header.name.toLowerCase();
  if (name.startsWith(':') || name.startsWith('proxy-') || COMPUTED.has(name)) return 'computed';
  if (name === 'host') return header.value === hostAndPort(url) ? 'computed' : 'own';
  if (CONDITIONAL.has(name)) return /^(?:GET|HEAD)$/i.test(method) ? 'conditional' : 'own';
  if (RANGE.has(name)) return status === undefined || status === PARTIAL_CONTENT ? 'own' : 'conditional';
  if (name === 'accept-encoding') return 'encoding';
  if (isCredential(header)) return 'credential';
  if (name.startsWith('sec-') || BROWSER_COLOUR.has(name)) return 'browser-colour';
  return 'own';
}

/** A header that is a secret as a whole. A token inside another value, such as a Referer, leaves the header what it is. */
const isCredential = ({ name, value }: NameValue): boolean =>
  isSecretName(name) ||
  findSecrets(value, { type: 'named', name }).some(
    ({ start, end }) => end === value.length && /^(?:\w+ )?$/.test(value.slice(0, start)),
  );

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
