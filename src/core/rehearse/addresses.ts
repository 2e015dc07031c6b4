import { addTo } from '../collections';
import { splitUrl } from '../http';

/** Where a rehearsal is found: its port, and whether it speaks TLS. */
export interface Stage {
  readonly port: number;
  readonly isSecure: boolean;
}

/** What a Host header asks for: one captured origin, a host that was never captured, or whichever fits. */
export type AskedHost =
  | { readonly type: 'origin'; readonly origin: string }
  | { readonly type: 'unknown'; readonly host: string }
  | { readonly type: 'any' };

/** A slash as markup, scripts and JSON write it, too. */
const SLASH = String.raw`(?:/|\\/|\\u002[fF]|\\x2[fF]|&#x2[fF];|&#47;)`;
const HOST = String.raw`(?:(?:[\w-]+\.)*[\w-]+|\[[0-9a-f:.]+\])`;
/** An address with its scheme, or behind two slashes that begin one. */
const ADDRESS = new RegExp(
  String.raw`(?:\b(https?|wss?)(:)|(?<![:\w\\/;]))(${SLASH})(${SLASH})(${HOST})(?::(\d{1,5}))?(?![\w-]|\.\w)`,
  'gi',
);
const QUOTED_HOST = new RegExp(String.raw`(["'\x60])(${HOST})(?::(\d{1,5}))?\1`, 'gi');
/** A scheme that a script puts in front of a host of its own. */
const QUOTED_SCHEME = /(["'`])(https?|wss?)(:(?:\/\/)?)(?=\1|\$\{)/g;

const OWN_PORTS: Readonly<Record<string, string>> = { http: '80', https: '443' };
/** Sockets are opened at the port of the scheme that they begin with (RFC 6455 3). */
const OF_HTTP: Readonly<Record<string, string>> = { http: 'http', ws: 'http', https: 'https', wss: 'https' };

/**
 * The addresses of a rehearsal: every captured host HOST is at HOST.localhost (such names are loopback, RFC 6761 6.3). Of a
 * host that was asked at several ports or by two schemes, the origin that was asked most has that name, and the others one
 * with their port in front.
 */
export class LocalAddresses {
  readonly #stage: Stage;
  /** Names without the port, by origin, and the other way round. */
  readonly #names = new Map<string, string>();
  readonly #origins = new Map<string, string>();
  /** Origins by their hosts, the one that was asked most first; and all of them as Origin headers write them. */
  readonly #byHost = new Map<string, string[]>();
  readonly #shown = new Set<string>();
  readonly #back: RegExp;

  /** @param urls of all captured requests */
  constructor(urls: Iterable<string>, stage: Stage) {
    this.#stage = stage;
    const counts = new Map<string, number>();
    for (const url of urls) {
      const origin = originOf(url);
      if (origin !== undefined) counts.set(origin, (counts.get(origin) ?? 0) + 1);
    }
    const byCount = [...counts].sort(([, one], [, other]) => other - one);
    for (const [origin] of byCount) {
      const { host, port } = partsOf(origin);
      const plain = `${nameOf(host)}.localhost`;
      const name = this.#origins.has(plain) ? `port-${port}.${plain}` : plain;
      this.#names.set(origin, name);
      this.#origins.set(name, origin);
      addTo(this.#byHost, host, origin);
      this.#shown.add(shownOrigin(origin));
    }
    const name = String.raw`((?:[\w-]+\.)+localhost)(:|%3A)${stage.port}(?!\d)`;
    const scheme = String.raw`\b(https?|wss?)(:|%3A)((?:${SLASH}|%2F){2})`;
    this.#back = new RegExp(String.raw`(?:${scheme}|(?<=%2F)|(?<![\w.-]))${name}`, 'gi');
  }

  /** The captured origins, those that were asked most first. */
  get origins(): readonly string[] {
    return [...this.#names.keys()];
  }

  /** True of what an Origin header (RFC 6454 7.1) names of the capture. */
  isCaptured = (shown: string): boolean => this.#shown.has(shown);

  /** Where a captured origin is found: `http://HOST.localhost:PORT`. Undefined for one that was not captured. */
  localOrigin(origin: string): string | undefined {
    const name = this.#names.get(origin);
    return name === undefined ? undefined : `${this.localScheme('http')}://${name}:${this.#stage.port}`;
  }

  /** Where a captured URL is found; undefined for one whose origin was not captured. */
  localUrl(url: string): string | undefined {
    const origin = originOf(url);
    const local = origin === undefined ? undefined : this.localOrigin(origin);
    const parts = splitUrl(url);
    if (local === undefined || parts === undefined) return undefined;
    return `${local}${parts.path === '' ? '/' : parts.path}${parts.query}`;
  }

  /** What a client that sends this Host header (RFC 9110 7.2) asks for; undefined where it is none of this rehearsal's. */
  asked(hostHeader: string): AskedHost | undefined {
    const [, host = '', port] = /^(\[[^\]]*\]|[^:]*)(?::(\d*))?$/.exec(hostHeader.trim().toLowerCase()) ?? [];
    if (/^(?:localhost|127(?:\.\d{1,3}){3}|\[::1\])$/.test(host)) return { type: 'any' };
    // A client that was told where the captured host is, or that takes the rehearsal for its proxy; a captured host may itself
    // be one of loopback.
    const captured = this.#byHost.get(host) ?? [];
    const named = this.#origins.get(host);
    const isOurs = named !== undefined && port === String(this.#stage.port);
    const origin = isOurs ? named : (captured.find((one) => partsOf(one).port === port) ?? captured[0] ?? named);
    if (origin !== undefined) return { type: 'origin', origin };
    return host.endsWith('.localhost') ? { type: 'unknown', host: host.slice(0, -'.localhost'.length) } : undefined;
  }

  /** A text with the addresses of captured hosts as those of the rehearsal. */
  rewrite(text: string): string {
    return text.replace(ADDRESS, (whole, scheme?: string, colon = '', one = '', two = '', host = '', port?: string) => {
      const name = this.#nameFor(scheme, host, port);
      if (name === undefined) return whole;
      return `${scheme === undefined ? '' : this.localScheme(scheme)}${colon}${one}${two}${name}:${this.#stage.port}`;
    });
  }

  /** The same of what scripts and JSON say, where a host may be a text of its own, and so may a scheme. */
  rewriteCode(text: string): string {
    const hosts = this.rewrite(text).replace(QUOTED_HOST, (whole, quote: string, host: string, port?: string) => {
      const name = host.includes('.') ? this.#nameFor(undefined, host, port) : undefined;
      return name === undefined ? whole : `${quote}${name}:${this.#stage.port}${quote}`;
    });
    return hosts.replace(QUOTED_SCHEME, (_, quote: string, scheme: string, rest: string) => {
      return `${quote}${this.localScheme(scheme)}${rest}`;
    });
  }

  /** A text that a client sent with the rehearsal's addresses as the captured ones, percent-encoded ones too. */
  takeBack(text: string): string {
    if (!text.includes('localhost')) return text;
    return text.replace(this.#back, (whole, scheme?: string, colon = '', slashes = '', name = '', sign = ':') => {
      const origin = this.#origins.get(name.toLowerCase());
      if (origin === undefined) return whole;
      const { scheme: own, host, port } = partsOf(origin);
      const shownPort = port === OWN_PORTS[own] ? '' : `${sign}${port}`;
      if (scheme === undefined) return `${host}${shownPort}`;
      const isSocket = /^ws/i.test(scheme);
      const told = isSocket ? own.replace('http', 'ws') : own;
      return `${told}${colon}${slashes}${host}${shownPort}`;
    });
  }

  /** A host of a cookie or a policy, which may be one that others are under. */
  localDomain(domain: string): string {
    return `${nameOf(domain.replace(/^\./, ''))}.localhost`;
  }

  /** The scheme by which the rehearsal is asked in place of another one. */
  localScheme(scheme: string): string {
    const { isSecure } = this.#stage;
    return /^ws/i.test(scheme) ? (isSecure ? 'wss' : 'ws') : isSecure ? 'https' : 'http';
  }

  get port(): number {
    return this.#stage.port;
  }

  #nameFor(scheme: string | undefined, host: string, port: string | undefined): string | undefined {
    const of = (own: string): string | undefined =>
      this.#names.get(`${own}://${host.toLowerCase()}:${port ?? OWN_PORTS[own]}`);
    const own = scheme === undefined ? undefined : OF_HTTP[scheme.toLowerCase()];
    if (own !== undefined) return of(own) ?? this.#otherScheme(own, host, port);
    return of('https') ?? of('http');
  }

  /** A link by HTTP to a host that was only ever asked by HTTPS leads there all the same. */
  #otherScheme(own: string, host: string, port: string | undefined): string | undefined {
    if (port !== undefined) return undefined;
    const other = own === 'http' ? 'https' : 'http';
    return this.#names.get(`${other}://${host.toLowerCase()}:${OWN_PORTS[other]}`);
  }
}

/** What was found of the beginnings of URLs: a capture has many URLs, and few of these. */
const known = new Map<string, string | undefined>();
const MOST_KNOWN = 2000;
const MOST_KNOWN_CHARS = 300;

/** Scheme, host and port of a URL as one text, the port always with it; undefined where it names no host. */
export function originOf(url: string): string | undefined {
  const beginning = BEGINNING.exec(url)?.[0] ?? '';
  // Data in an address of its own begins like that, too, and is not to be kept.
  if (beginning.length > MOST_KNOWN_CHARS) return readOrigin(beginning);
  const found = known.get(beginning);
  if (found !== undefined || known.has(beginning)) return found;
  if (known.size >= MOST_KNOWN) known.clear();
  const origin = readOrigin(beginning);
  known.set(beginning, origin);
  return origin;
}
/** Up to where its path begins (RFC 3986 3). */
const BEGINNING = /^[^/?#]*(?:\/\/[^/?#]*)?/;

function readOrigin(url: string): string | undefined {
  const parts = splitUrl(url);
  const scheme = OF_HTTP[parts?.scheme.toLowerCase() ?? ''];
  if (parts === undefined || scheme === undefined || parts.host === '') return undefined;
  const port = parts.port === undefined || parts.port === '' ? OWN_PORTS[scheme] : parts.port;
  return `${scheme}://${parts.host.toLowerCase()}:${port}`;
}

/** An origin as people write it: without the port that its scheme has anyway. */
export function shownOrigin(origin: string): string {
  const { scheme, host, port } = partsOf(origin);
  return `${scheme}://${host}${port === OWN_PORTS[scheme] ? '' : `:${port}`}`;
}

function partsOf(origin: string): { readonly scheme: string; readonly host: string; readonly port: string } {
  const [, scheme = '', host = '', port = ''] = /^(https?):\/\/(.*):(\d+)$/.exec(origin) ?? [];
  return { scheme, host, port };
}

/** A host as labels of a name: an IPv6 address has its colons as hyphens. */
const nameOf = (host: string): string =>
  host.startsWith('[') ? `v6-${host.slice(1, -1).replace(/[:.]/g, '-')}` : host.toLowerCase();
