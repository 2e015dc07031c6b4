import { ServerProblem } from './problem';

const LOOPBACK_HOST = /^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/i;

/** Hosts beside loopback under which the user said the app may be reached (`serve --host`). */
const allowedHosts = (): readonly string[] => (process.env['TRAZADO_HOSTS'] ?? '').split(',').filter(Boolean);

/** True where the app was opened to other machines (`serve --host`). */
export const isOpenToOthers = (): boolean => allowedHosts().length > 0;

/**
 * Refuses requests that other sites' pages make. The Host must be ours, against names rebound to this address; an
 * Origin must be our own; fetch metadata (W3C) may come from another site only for opening a page by a link.
 */
export function guardRequest(request: Request, pathname: string): void {
  const host = request.headers.get('host') ?? '';
  const isOurs = LOOPBACK_HOST.test(host) || allowedHosts().includes(host.replace(/:\d+$/, ''));
  if (!isOurs) throw refuse(`the host "${host.slice(0, 80)}" is not this machine`);
  const origin = request.headers.get('origin');
  if (origin !== null && !isSameOrigin(origin, host)) throw refuse('the request comes from another site');
  const site = request.headers.get('sec-fetch-site');
  if (site === null || site === 'same-origin' || site === 'none') return;
  const opensPage = request.method === 'GET' && request.headers.get('sec-fetch-mode') === 'navigate';
  const isTopLevel = request.headers.get('sec-fetch-dest') === 'document';
  if (!(opensPage && isTopLevel && !pathname.startsWith('/api/'))) throw refuse('the request comes from another site');
}

const isSameOrigin = (origin: string, host: string): boolean =>
  origin === `http://${host}` || origin === `https://${host}`;

const refuse = (why: string): ServerProblem =>
  new ServerProblem(
    'foreign-origin',
    `Refused: ${why}.`,
    'Open Trazado at the address that it printed when it started.',
  );
