import type { NameValue } from '../model';

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

export interface QueryParameter extends NameValue {
  /** How many parameters of this name there are; its own place among them, from 1. */
  readonly ofName: number;
  readonly nth: number;
  /** "empty": `a=`; "bare": `a` without an equals sign. */
  readonly form: 'filled' | 'empty' | 'bare';
}

const ADDRESS = /^([a-z][a-z0-9+.-]*):\/\/(?:([^/?#@]*)@)?(\[[^\]]*\]|[^/?#:]*)(?::(\d*))?([^?#]*)(\?[^#]*)?(#.*)?$/is;
const OWN_PORTS: Readonly<Record<string, string>> = { http: '80', https: '443', ws: '80', wss: '443' };
const MOST_PARAMETERS = 2000;

/** Takes an absolute address apart; undefined where it has no host. */
export function takeApart(url: string): AddressParts | undefined {
  const match = ADDRESS.exec(url);
  if (match === null) return undefined;
  const [, scheme = '', user, host = '', port, path = '', query, fragment] = match;
  const written = port === undefined || port === '' ? undefined : port;
  return {
    scheme: scheme.toLowerCase(),
    user,
    host,
    port: written,
    usedPort: written ?? OWN_PORTS[scheme.toLowerCase()],
    path: path === '' ? '/' : path,
    segments: path.split('/').slice(1).map(decode),
    query: readQuery(query?.slice(1) ?? ''),
    fragment: fragment === undefined ? undefined : decode(fragment.slice(1)),
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
      const name = decodePlus(equals === -1 ? pair : pair.slice(0, equals));
      return { name, value: equals === -1 ? '' : decodePlus(pair.slice(equals + 1)), form } as const;
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

const decodePlus = (text: string): string => decode(text.replaceAll('+', ' '));

function decode(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}
