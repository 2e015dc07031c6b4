import type { IncomingHttpHeaders } from 'node:http';
import type { LocalAddresses } from '#core/rehearse';

/** A request from somewhere else than where rehearsals are asked from. */
export class NotOurs extends Error {}

/**
 * Refuses what other sites' pages ask, and names that were bound to this address behind our back: the Host must be loopback, one of
 * the rehearsal's own, or a captured host (a client that was told where it is); an Origin must be on this machine, or, where the
 * client asks under captured names, a captured one. What comes from another site without an Origin must say by its Referer that it
 * comes from here, but for the opening of a page. @throws NotOurs
 */
export function guardVisitor(
  headers: IncomingHttpHeaders,
  addresses: LocalAddresses,
  extraHosts: readonly string[],
): void {
  const host = headers.host ?? '';
  const bare = host.replace(/:\d*$/, '').toLowerCase();
  const isOwn = addresses.asked(host) !== undefined || host === '' || extraHosts.includes(bare);
  if (!isOwn) throw new NotOurs(`The host "${host.slice(0, 80)}" is not of this rehearsal.`);
  const { origin, referer } = headers;
  const isHere = (url: string): boolean => isFromHere(url, addresses, isLocal(bare) ? undefined : host);
  if (origin !== undefined && origin !== 'null') {
    if (!isHere(origin)) throw new NotOurs(`A page of ${origin.slice(0, 80)} asked: only pages on this machine may.`);
    return;
  }
  const site = headers['sec-fetch-site'];
  if (site !== 'cross-site' || opensPage(headers)) return;
  if (referer === undefined || !isHere(referer)) throw new NotOurs('A page of another site asked.');
}

const isLocal = (host: string): boolean => /(?:^|\.)localhost$|^127\.|^\[::1\]$/.test(host);

const opensPage = (headers: IncomingHttpHeaders): boolean =>
  headers['sec-fetch-mode'] === 'navigate' && headers['sec-fetch-dest'] === 'document';

function isFromHere(url: string, addresses: LocalAddresses, askedAs: string | undefined): boolean {
  let from: URL;
  try {
    from = new URL(url);
  } catch {
    return false;
  }
  if (isLocal(from.hostname)) return true;
  // Only who decides which names lead here can ask under a captured name.
  return askedAs !== undefined && addresses.asked(from.host)?.type === 'origin';
}
