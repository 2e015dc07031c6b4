import type { IncomingHttpHeaders } from 'node:http';
import type { LocalAddresses } from '#core/rehearse';

/** Why a request is not answered; `unlessCaptured`: it is all the same where the captured request came in the same way. */
export interface Refusal {
  readonly sentence: string;
  readonly unlessCaptured: boolean;
}

/**
 * Refuses what other sites' pages ask, and names that were bound to this address behind our back: the Host must be loopback, one of
 * the rehearsal's own, or a captured host (a client that was told where it is); an Origin must be on this machine or a captured
 * one, which code sends as the browser did, and a captured site may read here what its responses let it. What comes from
 * another site without an Origin must say by its Referer where it comes from, but for the opening of a page. Undefined where
 * it is answered.
 */
export function refusalOf(
  headers: IncomingHttpHeaders,
  addresses: LocalAddresses,
  extraHosts: readonly string[],
): Refusal | undefined {
  const host = headers.host ?? '';
  const bare = host.replace(/:\d*$/, '').toLowerCase();
  const isOwn = addresses.asked(host) !== undefined || host === '' || extraHosts.includes(bare);
  if (!isOwn) return refuse(`The host "${host.slice(0, 80)}" is not of this rehearsal.`);
  const { origin, referer } = headers;
  if (origin !== undefined && origin !== 'null')
    return isFromHere(origin, addresses)
      ? undefined
      : refuse(`A page of ${origin.slice(0, 80)} asked: only pages on this machine and of the capture may.`);
  if (headers['sec-fetch-site'] !== 'cross-site' || opensPage(headers)) return undefined;
  if (referer !== undefined && isFromHere(referer, addresses)) return undefined;
  return { sentence: 'A page of another site asked.', unlessCaptured: referer === undefined };
}

const refuse = (sentence: string): Refusal => ({ sentence, unlessCaptured: false });

const opensPage = (headers: IncomingHttpHeaders): boolean =>
  headers['sec-fetch-mode'] === 'navigate' && headers['sec-fetch-dest'] === 'document';

function isFromHere(url: string, addresses: LocalAddresses): boolean {
  let from: URL;
  try {
    from = new URL(url);
  } catch {
    return false;
  }
  const isLocal = /(?:^|\.)localhost$|^127(?:\.\d{1,3}){3}$|^\[::1\]$/.test(from.hostname);
  return isLocal || addresses.asked(from.host)?.type === 'origin';
}
