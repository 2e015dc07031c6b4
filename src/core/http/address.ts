import type { NameValue } from '../model';
import { formDecoded, percentDecoded } from './percent';

/** An address in its parts (RFC 3986 3), each as it stands in it. */
export interface AddressParts {
  readonly scheme: string;
  readonly user: string | undefined;
  readonly host: string;
  /** As written; absent where the scheme's own is meant. */
  readonly port: string | undefined;
  /** The port in use: as written, else the scheme's own. */
  readonly usedPort: string | undefined;
  readonly path: string;
  /** The path's segments, decoded; an empty one at the end stands for a closing slash. */
  readonly segments: readonly string[];
  /** The parameters of the query, decoded, in their order, repeated and empty ones too. */
  readonly query: readonly QueryParameter[];
  readonly fragment: string | undefined;
}

interface QueryParameter extends NameValue {
  /** How many parameters of this name there are; its own place among them, from 1. */
  readonly ofName: number;
  readonly nth: number;
  /** "empty": `a=`; "bare": `a` without an equals sign. */
  readonly form: 'filled' | 'empty' | 'bare';
}

const OWN_PORTS: Readonly<Record<string, string>> = { http: '80', https: '443', ws: '80', wss: '443' };
const MOST_PARAMETERS = 2000;

/** An absolute URL in the parts that it is written in (RFC 3986 3), none of them decoded. */
interface UrlParts {
  readonly scheme: string;
  /** Scheme, slashes and authority: what stands before the path. */
  readonly origin: string;
  readonly authority: string;
  /** User and password, without the sign behind them. */
  readonly user: string | undefined;
  /** Without port; an IPv6 address in its brackets. */
  readonly host: string;
  readonly port: string | undefined;
  /** May be empty. */
  readonly path: string;
  /** With its question mark; empty where there is none. */
  readonly query: string;
  /** With its number sign; empty where there is none. */
  readonly fragment: string;
}

const URL_PARTS = /^(([a-z][a-z0-9+.-]*):\/\/([^/?#]*))([^?#]*)(\?[^#]*)?(#.*)?$/is;
const AUTHORITY = /^(?:(.*)@)?(\[[^\]]*\]|[^:]*)(?::(.*))?$/s;

/** Splits an absolute URL; undefined where it has no authority. */
export function splitUrl(url: string): UrlParts | undefined {
  const match = URL_PARTS.exec(url);
  if (match === null) return undefined;
  const [, origin = '', scheme = '', authority = '', path = '', query = '', fragment = ''] = match;
  const [, user, host = '', port] = AUTHORITY.exec(authority) ?? [];
  return { scheme, origin, authority, user, host, port, path, query, fragment };
}

/** The query of an address with its question mark (RFC 3986 3.4), empty where it has none; a fragment's "?" begins none. */
export const queryOf = (url: string): string => /^[^?#]*(\?[^#]*)/.exec(url)?.[1] ?? '';

/** Takes an absolute URL apart, decoded as it is shown; undefined where it has no host. */
export function takeApart(url: string): AddressParts | undefined {
  const parts = splitUrl(url);
  if (parts === undefined) return undefined;
  const { user, host, path, query, fragment } = parts;
  const scheme = parts.scheme.toLowerCase();
  const port = parts.port === '' ? undefined : parts.port;
  return {
    scheme,
    user,
    host,
    port,
    usedPort: port ?? OWN_PORTS[scheme],
    path: path === '' ? '/' : path,
    segments: path.split('/').slice(1).map(percentDecoded),
    query: readQuery(query.slice(1)),
    fragment: fragment === '' ? undefined : percentDecoded(fragment.slice(1)),
  };
}

/** Parameters of application/x-www-form-urlencoded (WHATWG URL 5.1), of queries and of form payloads. */
export function readQuery(text: string): QueryParameter[] {
  const pairs = text
    .split('&')
    .filter((pair) => pair !== '')
    .slice(0, MOST_PARAMETERS)
    .map((pair) => {
      const equals = pair.indexOf('=');
      const form = equals === -1 ? 'bare' : equals === pair.length - 1 ? 'empty' : 'filled';
      const name = formDecoded(equals === -1 ? pair : pair.slice(0, equals));
      return { name, value: equals === -1 ? '' : formDecoded(pair.slice(equals + 1)), form } as const;
    });
  const counts = new Map<string, number>();
  for (const { name } of pairs) counts.set(name, (counts.get(name) ?? 0) + 1);
  const seen = new Map<string, number>();
  return pairs.map((pair) => {
    const nth = (seen.get(pair.name) ?? 0) + 1;
    seen.set(pair.name, nth);
    return { ...pair, nth, ofName: counts.get(pair.name) ?? 1 };
  });
}

/**
 * An absolute path, or an empty one, without its dot segments (RFC 3986 5.2.4).
 * @param dotsOf what a segment says, for clients that take "%2e" for a dot too
 */
export function withoutDotSegments(path: string, dotsOf: (segment: string) => string = (segment) => segment): string {
  if (path === '') return '';
  const kept: string[] = [];
  const segments = path.split('/').slice(1);
  for (const [at, segment] of segments.entries()) {
    const dots = dotsOf(segment);
    if (dots === '..') kept.pop();
    if (dots !== '.' && dots !== '..') kept.push(segment);
    else if (at === segments.length - 1) kept.push('');
  }
  return `/${kept.join('/')}`;
}

/** A name or an address, IPv6 in brackets, and a port where one is given (RFC 3986 3.2.2, 3.2.3). */
const NETWORK_PLACE = /^(?:\[[0-9a-f:.]+\]|[^\s:/@[\]]+)(?::(\d{1,5}))?$/i;
const MOST_PORT = 65_535;

/** Whether a text names a place on the network, as "127.0.0.1:8080" does: no URL, and no port that there cannot be. */
export function isNetworkPlace(text: string): boolean {
  const match = NETWORK_PLACE.exec(text);
  if (match === null) return false;
  const port = match[1] === undefined ? 1 : Number(match[1]);
  return port >= 1 && port <= MOST_PORT;
}

/**
 * Whether what stands at an address is fetched over a network (WHATWG Fetch 2.3, network schemes). An address without a
 * scheme is: CONNECT has a host and a port (RFC 9110 9.3.6).
 */
export const isFetched = (url: string): boolean =>
  !/^(?!(?:https?|wss?|ftps?):)[a-z][a-z0-9+.-]*:(?!\d{1,5}(?:\/|$))/i.test(url);

/** Whether an address leads to this computer, which browsers trust as they do TLS (Secure Contexts 3.1). */
export function isLoopback(url: string): boolean {
  const host = splitUrl(url)?.host.toLowerCase() ?? '';
  return /^(?:(?:.*\.)?localhost|127(?:\.\d{1,3}){3}|\[::1\])$/.test(host);
}
