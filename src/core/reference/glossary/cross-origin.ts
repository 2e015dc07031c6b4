import { explain } from '../entry';

/** Requests from one origin to another. */
export const CROSS_ORIGIN = explain('cross-origin', [
  [
    'CORS',
    'A page may read responses of another origin only where that origin’s Access-Control-Allow-Origin permits it. The request may have been carried out all the same.',
    'Fetch, CORS protocol',
    ['cross-origin', 'blocked by cors', 'access-control-allow-origin', 'cors error'],
  ],
  [
    'preflight',
    'An OPTIONS request by which the browser asks whether method and headers of a cross-origin request are allowed. Costs a round trip unless Access-Control-Max-Age keeps it.',
    'Fetch, CORS-preflight',
    ['options', 'cors', 'access-control-request-method', 'why options'],
  ],
  [
    'origin',
    'Scheme, host and port of a page. https://a.example and https://api.a.example are two origins of one site.',
    'RFC 6454 4',
    ['same-origin', 'cors'],
  ],
  [
    'site',
    'Scheme and registrable domain: what SameSite and third party go by.',
    'HTML, sites',
    ['same-site', 'registrable domain', 'etld+1', 'public suffix'],
  ],
  [
    'request without preflight',
    'GET, HEAD or POST, only common headers, and form or plain text as content type: goes out at once, also cross-origin. JSON does not belong here.',
    'Fetch, CORS-safelisted',
    ['simple request', 'safelisted', 'cors'],
  ],
  [
    'credentials mode',
    'Whether cookies go along cross-origin. With them, Access-Control-Allow-Origin must name the origin, “*” does not suffice.',
    'Fetch, credentials',
    ['withcredentials', 'credentials: include', 'access-control-allow-credentials', 'cors'],
  ],
  [
    'opaque response',
    'A cross-origin response fetched without CORS: the page can show it but not read it, and sees status 0.',
    'Fetch, filtered responses',
    ['no-cors', 'status 0', 'orb'],
  ],
]);
