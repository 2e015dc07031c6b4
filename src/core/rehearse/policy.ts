import type { LocalAddresses } from './addresses';

const SOURCE = /^(?:([a-z][a-z0-9+.-]*):\/\/)?(\*\.)?([\w-]+(?:\.[\w-]+)*|\*)(?::(\d+|\*))?(\/.*)?$/i;
/** What would have a page ask by HTTPS what the rehearsal gives by HTTP (Upgrade Insecure Requests 3.1; Mixed Content). */
const UPGRADES = /^(?:upgrade-insecure-requests|block-all-mixed-content)$/i;

/**
 * Content-Security-Policy with the hosts of a rehearsal in place of the captured ones (CSP 3, 2.3.1).
 * @param hashes of inline scripts and styles that were rewritten: the new one by the captured one, as `sha256-...`
 */
export function rewritePolicy(
  header: string,
  addresses: LocalAddresses,
  hashes: ReadonlyMap<string, string> = new Map(),
): string {
  return header
    .split(',')
    .map((policy) =>
      policy
        .split(';')
        .map((directive) => directive.trim())
        .filter((directive) => directive !== '' && !UPGRADES.test(directive))
        .map((directive) =>
          directive
            .split(/\s+/)
            .map((part, at) => (at === 0 ? part : rewriteSource(part, addresses, hashes)))
            .join(' '),
        )
        .join('; '),
    )
    .join(', ');
}

function rewriteSource(source: string, addresses: LocalAddresses, hashes: ReadonlyMap<string, string>): string {
  if (source.startsWith("'")) {
    const made = hashes.get(source.slice(1, -1));
    return made === undefined ? source : `${source} '${made}'`;
  }
  const scheme = /^(https?|wss?):$/i.exec(source)?.[1];
  if (scheme !== undefined) return `${addresses.localScheme(scheme)}:`;
  const [, own, wild = '', host = '', , path = ''] = SOURCE.exec(source) ?? [];
  if (host === '' || (own !== undefined && !/^(?:https?|wss?)$/i.test(own))) return source;
  const shown = own === undefined ? '' : `${addresses.localScheme(own)}://`;
  if (host === '*') return own === undefined ? source : `${shown}*`;
  // A word without a dot is a directive's own value, as in report-to.
  if (!host.includes('.') && own === undefined) return source;
  return `${shown}${wild}${addresses.localDomain(host)}:${addresses.port}${path}`;
}
