import { readFileSync } from 'node:fs';
import type { SendBounds } from './bounds';

/** Where the app's own hosts go: the demo's, to its stand-in site ("host:443=127.0.0.1:8443, ..."), and what it is trusted by. */
export function ownPlaces(): Pick<SendBounds, 'toHosts' | 'certificate'> {
  const pairs = (process.env['TRAZADO_TO_HOSTS'] ?? '').split(',').filter(Boolean);
  const certificate = process.env['TRAZADO_SITE_CERTIFICATE'];
  return {
    toHosts: new Map(
      pairs.map((pair): [string, string] => {
        const at = pair.indexOf('=');
        return [pair.slice(0, at), pair.slice(at + 1)];
      }),
    ),
    ...(certificate === undefined ? {} : { certificate: readFileSync(certificate, 'utf8') }),
  };
}
