import { explain } from '../entry';

export const COOKIE_ATTRIBUTES = explain('cookie attribute', [
  [
    'Expires',
    'The moment from which the cookie is expired. Without Expires and Max-Age it lasts until the browser is closed.',
    'RFC 6265 5.2.1',
    ['session cookie', 'lifetime'],
  ],
  [
    'Max-Age',
    'For how many seconds the cookie is kept; counts before Expires. 0 or less deletes it.',
    'RFC 6265 5.2.2',
    ['lifetime', 'expires'],
  ],
  [
    'Domain',
    'Sent to this host and all below it. Without it, only to the host that set it.',
    'RFC 6265 5.2.3',
    ['subdomain'],
  ],
  ['Path', 'Sent only for URLs whose path begins with this. It protects nothing.', 'RFC 6265 5.2.4'],
  ['Secure', 'Sent over HTTPS only.', 'RFC 6265 5.2.5', ['https']],
  ['HttpOnly', 'Scripts of the page cannot read it.', 'RFC 6265 5.2.6', ['document.cookie', 'xss']],
  [
    'SameSite',
    'Whether it goes along when another site causes the request: Strict never, Lax only for following a link, None always (needs Secure). Browsers differ where it is absent; many take Lax.',
    'RFC 6265bis',
    ['lax', 'strict', 'none', 'csrf', 'cross-site', 'third-party cookie'],
  ],
  [
    'Partitioned',
    'Kept apart for each site in which it is embedded. Needs Secure.',
    'CHIPS',
    ['third-party cookie', 'embedded'],
  ],
  [
    '__Secure-',
    'A cookie with a name that begins so is only accepted from HTTPS with Secure.',
    'RFC 6265bis',
    ['prefix'],
  ],
  [
    '__Host-',
    'As __Secure-, and only with Path=/ and without Domain: it belongs to this one host.',
    'RFC 6265bis',
    ['prefix'],
  ],
]);
