import { ServerProblem } from './problem';

const LOOPBACK_HOST = /^(localhost|127\.0\.0\.1|\[::1\])(:\d+)?$/i;

/** Which requests may come by which methods; what is not here means nothing to Trazado. */
const METHODS = new Set(['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE']);

/** Hosts beside loopback under which the user said the app may be reached (`serve --host`). */
const allowedHosts = (): readonly string[] => (process.env['TRAZADO_HOSTS'] ?? '').split(',').filter(Boolean);

/** True where the app was opened to other machines (`serve --host`). */
export const isOpenToOthers = (): boolean => allowedHosts().length > 0;

/**
 * Refuses to send anything for somebody else: what is not our own page, by the Origin that browsers put on what a page asks
 * for; and anybody, where the app was opened to others and the user did not allow it (`serve --allow-sending`).
 */
export function guardSending(request: Request): void {
  const origin = request.headers.get('origin');
  const isOurs = origin !== null && isSameOrigin(origin, request.headers.get('host') ?? '');
  if (!isOurs && !isOwn(request)) throw refuse('only the page of Trazado itself sends requests');
  if (isOpenToOthers() && process.env['TRAZADO_SENDING'] !== 'allowed') {
    throw new ServerProblem(
      'sending-off',
      'Sending is off, since the app is open to other machines.',
      'Start it with --allow-sending if everybody who reaches it may send from here.',
    );
  }
}

/** Carries the secret by which the command line that started the server shows that it is that. */
export const OWN_HEADER = 'x-trazado-own';

/** True for requests of the command line that runs this server; nobody else can know what its environment holds. */
export function isOwn(request: Request): boolean {
  const secret = process.env['TRAZADO_OWN'] ?? '';
  return secret !== '' && request.headers.get(OWN_HEADER) === secret;
}

/**
 * Refuses requests that other sites' pages make. The Host must be ours, against names rebound to this address; an
 * Origin must be our own; fetch metadata (W3C) may come from another site only for opening a page by a link.
 */
export function guardRequest(request: Request, pathname: string): void {
  const host = request.headers.get('host') ?? '';
  const isOurs = LOOPBACK_HOST.test(host) || allowedHosts().includes(host.replace(/:\d+$/, '').toLowerCase());
  if (!isOurs) throw refuse(`the host "${host.slice(0, 80)}" is not this machine`);
  const origin = request.headers.get('origin');
  if (origin !== null && !isSameOrigin(origin, host)) throw refuse('the request comes from another site');
  const site = request.headers.get('sec-fetch-site');
  if (site === null || site === 'same-origin' || site === 'none') return;
  const opensPage = request.method === 'GET' && request.headers.get('sec-fetch-mode') === 'navigate';
  const isTopLevel = request.headers.get('sec-fetch-dest') === 'document';
  if (!(opensPage && isTopLevel && !isApi(pathname))) throw refuse('the request comes from another site');
}

/** True for the endpoints, also where slashes are doubled or leaning back: the router takes them for the same. */
export const isApi = (pathname: string): boolean => /^[\\/]+api(?:[\\/]|$)/i.test(pathname);

/** Refuses methods that nothing here answers to. */
export function guardMethod({ method }: Request, pathname: string): void {
  const isPage = !isApi(pathname);
  if (METHODS.has(method) && (!isPage || method === 'GET' || method === 'HEAD')) return;
  throw new ServerProblem(
    'wrong-method',
    `Nothing here answers to ${method.slice(0, 20)}.`,
    'Open the page by its address.',
  );
}

const isSameOrigin = (origin: string, host: string): boolean =>
  origin === `http://${host}` || origin === `https://${host}`;

const refuse = (why: string): ServerProblem =>
  new ServerProblem(
    'foreign-origin',
    `Refused: ${why}.`,
    'Open Trazado at the address that it printed when it started.',
  );
