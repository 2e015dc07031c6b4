import { type Draft, fillIn } from '../convert';

/** Of the payload: nothing that goes without one carries them (Fetch 4.4, "request-body-header names"; RFC 9110 6.4). */
const OF_PAYLOAD = /^(?:content-|transfer-encoding$|trailer$|expect$)/i;

/**
 * The request that follows a redirect, as clients make it (RFC 9110 15.4, Fetch 4.4): a 303 is followed by GET, or by HEAD
 * where that was asked; a 301 or 302 to POST by GET as well; any other keeps method and payload. Credentials are left out
 * where it goes to another origin: they were for the one before.
 * @param url where the response leads, absolute
 */
export function nextHop(draft: Draft, status: number, url: string): Draft {
  const { method } = draft;
  const becomesGet =
    status === 303 ? !/^(?:GET|HEAD)$/i.test(method) : (status === 301 || status === 302) && /^POST$/i.test(method);
  const to = new URL(url);
  const address = fillIn(draft).url;
  const from = URL.canParse(address) ? new URL(address) : undefined;
  const isElsewhere = from?.origin !== to.origin;
  const headers = draft.headers
    .filter(({ name }) => !(becomesGet && OF_PAYLOAD.test(name)) && !(isElsewhere && /^host$/i.test(name)))
    .map((header) =>
      isElsewhere && header.role === 'credential'
        ? { ...header, kept: false, reason: `it was not meant for ${to.host}` }
        : header,
    );
  const leftOut = isElsewhere ? draft.headers.filter(({ role, kept }) => role === 'credential' && kept) : [];
  to.hash = '';
  return {
    ...draft,
    method: becomesGet ? 'GET' : method,
    url: to.href,
    headers,
    payload: becomesGet ? { type: 'none' } : draft.payload,
    notes:
      leftOut.length === 0
        ? []
        : [`Struck when this was made, as not meant for ${to.host}: ${leftOut.map(({ name }) => name).join(', ')}.`],
  };
}
