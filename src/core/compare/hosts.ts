/** Hosts that are one and the same for a comparison, as staging and production are: either name to the one that stands for both. */
export type HostMap = ReadonlyMap<string, string>;

/** A text is no pair of hosts. */
export class HostMapError extends Error {}

const HOST = /^[^\s/=?#@]+$/;

/**
 * Reads pairs as "staging.cumbrera.example=www.cumbrera.example".
 * @throws HostMapError for what is none
 */
export function readHostMap(pairs: readonly string[]): HostMap {
  const map = new Map<string, string>();
  for (const pair of pairs) {
    const [from = '', to = '', ...more] = pair.trim().toLowerCase().split('=');
    if (!HOST.test(from) || !HOST.test(to) || more.length > 0)
      throw new HostMapError(
        `"${pair}" is not a pair of hosts; write e.g. staging.cumbrera.example=www.cumbrera.example.`,
      );
    map.set(from, to);
    map.set(to, to);
  }
  return map;
}

const ADDRESS = /^([a-z][a-z0-9+.-]*:)\/\/([^/?#]*)/i;
const AUTHORITY = /^(?:.*@)?((\[[^\]]*\]|[^:]*)(?::\d+)?)$/;

/** The name that stands for an authority, known by its host and port or by its host alone; undefined where it has none. */
function standsFor(authority: string, map: HostMap): string | undefined {
  const [, withPort = '', host = ''] = AUTHORITY.exec(authority.toLowerCase()) ?? [];
  return map.get(withPort) ?? map.get(host);
}

/** An address as it is compared: of a mapped host neither scheme nor name tells. */
export function addressIn(url: string, map: HostMap): string {
  if (map.size === 0) return url;
  const match = ADDRESS.exec(url);
  const to = match === null ? undefined : standsFor(match[2] ?? '', map);
  return match === null || to === undefined ? url : `//${to}${url.slice(match[0].length)}`;
}

/** The name of a host, or of an authority, as it is compared. */
export const hostIn = (host: string, map: HostMap): string => (map.size === 0 ? host : (standsFor(host, map) ?? host));

/** Hosts that stand for others, and to which none of the URLs leads: most likely written wrongly. */
export function unmetHosts(map: HostMap, urls: readonly string[]): string[] {
  const met = new Set(
    urls.flatMap((url) => {
      const [, withPort, host] = AUTHORITY.exec((ADDRESS.exec(url)?.[2] ?? '').toLowerCase()) ?? [];
      return [withPort, host];
    }),
  );
  return [...map].flatMap(([from, to]) => (from === to || met.has(from) ? [] : [from]));
}
