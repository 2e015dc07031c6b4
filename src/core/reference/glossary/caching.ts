import { explain } from '../entry';

/** Terms of caching that are no header's name. */
export const CACHING_TERMS = explain('caching', [
  [
    'fresh',
    'Younger than its lifetime: may be used without asking the server.',
    'RFC 9111 4.2',
    ['freshness', 'lifetime', 'max-age'],
  ],
  [
    'stale',
    'Older than its lifetime: revalidated before use, as a rule.',
    'RFC 9111 4.2',
    ['expired', 'outdated', 'old'],
  ],
  [
    'heuristic freshness',
    'Where neither max-age nor Expires is given, a cache may guess a lifetime, mostly a tenth of the time since Last-Modified.',
    'RFC 9111 4.2.2',
    ['no cache-control', 'why cached', 'guess', '10 %'],
  ],
  [
    'revalidation',
    'Asking with If-None-Match or If-Modified-Since whether the stored copy is still valid. Yes is 304, without a body.',
    'RFC 9111 4.3',
    ['304', 'conditional request', 'etag', 'why 304'],
  ],
  [
    'validator',
    'ETag or Last-Modified: by it a stored copy can be revalidated. Without one, the whole body is fetched again.',
    'RFC 9110 8.8',
    ['etag', 'last-modified', 'conditional'],
  ],
  [
    'stored',
    'Kept by a cache. A response with no-store is not; others with a lifetime, a validator or a cacheable status may be.',
    'RFC 9111 3',
    ['cacheable', 'cacheability', 'why not cached', 'storable'],
  ],
  [
    'reload',
    'On a reload browsers revalidate the document, on a forced one they fetch everything: such captures tell little about caching.',
    'HTML and browsers',
    ['hard reload', 'refresh', 'disable cache', 'cache-control: no-cache', 'pragma'],
  ],
]);
