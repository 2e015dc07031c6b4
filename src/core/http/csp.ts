/** Kinds of sources that rules ask about, each with the directive that stands in where it is not given (CSP 3, 6.8.3). */
const FALLBACK = { 'connect-src': 'default-src' } as const;

/**
 * Whether Content-Security-Policy lets a page load an address (CSP 3, 6.7.2.7): every policy of the header has to.
 * Undefined where either address is none.
 * @param header all policies, joined by commas as several headers are
 * @param self the page's own address
 */
export function isAllowedByCsp(
  header: string,
  directive: keyof typeof FALLBACK,
  url: string,
  self: string,
): boolean | undefined {
  const [to, own] = [parse(url), parse(self)];
  if (to === undefined || own === undefined) return undefined;
  return header.split(',').every((policy) => {
    const directives = new Map<string, string[]>();
    for (const part of policy.split(';')) {
      const [name, ...sources] = part.trim().split(/\s+/);
      // Of one that is given twice the first counts (CSP 3, 2.2.1).
      if (name !== undefined && !directives.has(name.toLowerCase())) directives.set(name.toLowerCase(), sources);
    }
    const sources = directives.get(directive) ?? directives.get(FALLBACK[directive]);
    return sources === undefined || sources.some((source) => isMatch(source, to, own));
  });
}

function parse(url: string): URL | undefined {
  try {
    return new URL(url);
  } catch {
    return undefined;
  }
}

const SOURCE = /^(?:([a-z][a-z0-9+.-]*):\/\/)?(\*|(?:\*\.)?[^/:*]+)(?::(\d+|\*))?(\/[^?#]*)?(?:[?#].*)?$/i;
const DEFAULT_PORTS: Readonly<Record<string, string>> = { http: '80', ws: '80', https: '443', wss: '443' };
/** Plain schemes cover their secure forms (CSP 3, 6.7.2.8). */
const COVERS: Readonly<Record<string, readonly string[]>> = {
  http: ['http', 'https', 'ws', 'wss'],
  ws: ['ws', 'wss', 'http', 'https'],
  https: ['https', 'wss'],
  wss: ['wss', 'https'],
};
const schemeOf = ({ protocol }: URL): string => protocol.slice(0, -1);
const portOf = (url: URL): string => url.port || (DEFAULT_PORTS[schemeOf(url)] ?? '');

function isMatch(source: string, url: URL, own: URL): boolean {
  if (source === '*') return schemeOf(url) in COVERS || schemeOf(url) === schemeOf(own);
  if (/^'self'$/i.test(source)) return isOwn(url, own);
  if (source.startsWith("'")) return false;
  const scheme = /^([a-z][a-z0-9+.-]*):$/i.exec(source)?.[1]?.toLowerCase();
  if (scheme !== undefined) return (COVERS[scheme] ?? [scheme]).includes(schemeOf(url));
  const [, ofScheme, host = '', port, path] = SOURCE.exec(source) ?? [];
  const from = ofScheme?.toLowerCase() ?? schemeOf(own);
  if (host === '' || !(COVERS[from] ?? [from]).includes(schemeOf(url))) return false;
  const isHost =
    host === '*' ||
    (host.startsWith('*.')
      ? url.hostname.toLowerCase().endsWith(host.slice(1).toLowerCase())
      : url.hostname.toLowerCase() === host.toLowerCase());
  // A plain port covers its secure one, as a plain scheme does.
  const isUpgraded = port === '80' && schemeOf(url) === 'https' && portOf(url) === '443';
  const isPort = port === '*' || isUpgraded || portOf(url) === (port ?? DEFAULT_PORTS[schemeOf(url)]);
  const isPath =
    path === undefined || path === '/' || (path.endsWith('/') ? url.pathname.startsWith(path) : url.pathname === path);
  return isHost && isPort && isPath;
}

/** The page's own origin, by its secure scheme too (CSP 3, 6.7.2.8, 'self'). */
const isOwn = (url: URL, own: URL): boolean =>
  url.hostname === own.hostname &&
  (COVERS[schemeOf(own)] ?? [schemeOf(own)]).includes(schemeOf(url)) &&
  (portOf(url) === portOf(own) || (portOf(url) === '443' && portOf(own) === '80'));
