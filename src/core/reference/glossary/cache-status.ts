import { explain } from '../entry';

/** What stands in the header Cache-Status, which caches between browser and server write. */
export const CACHE_STATUS = explain('Cache-Status value', [
  ['hit', 'Served by this cache without asking further.', 'RFC 9211 2.1', ['cdn hit', 'x-cache']],
  ['fwd', 'Passed on towards the server, and why.', 'RFC 9211 2.2', ['forward', 'miss', 'cdn miss', 'x-cache']],
  ['fwd=bypass', 'This cache was set up not to handle the request.', 'RFC 9211 2.2', ['bypass']],
  ['fwd=method', 'Passed on because of its method, such as POST.', 'RFC 9211 2.2'],
  ['fwd=uri-miss', 'Nothing stored for this URL.', 'RFC 9211 2.2', ['miss']],
  [
    'fwd=vary-miss',
    'Something is stored for this URL, but not for these request headers (Vary).',
    'RFC 9211 2.2',
    ['miss', 'vary'],
  ],
  ['fwd=miss', 'Nothing stored that fits; which of the two is not said.', 'RFC 9211 2.2', ['miss']],
  [
    'fwd=request',
    'A fresh copy was there, but the request did not allow it, such as by no-cache.',
    'RFC 9211 2.2',
    ['reload'],
  ],
  ['fwd=stale', 'A copy was there, but stale.', 'RFC 9211 2.2', ['expired']],
  ['fwd=partial', 'Only a part of what was asked for was stored.', 'RFC 9211 2.2', ['range']],
  ['fwd-status', 'The status that the server behind responded with.', 'RFC 9211 2.3'],
  [
    'ttl',
    'For how many seconds more the copy is fresh; below 0: for how long it has been stale.',
    'RFC 9211 2.4',
    ['time to live', 'fresh'],
  ],
  ['stored', 'Whether this cache kept the response.', 'RFC 9211 2.5'],
  ['collapsed', 'Whether the request was joined with another one for the same URL.', 'RFC 9211 2.6', ['coalesced']],
]);
