import {
  besideLoad,
  type Cause,
  call,
  code,
  failed,
  image,
  type Made,
  page,
  START,
  STATS,
  style,
  times,
  WWW,
} from './made';

const inside = (name: string, body: string, more: Partial<Made> = {}): Cause =>
  besideLoad(
    `an error inside: ${name}`,
    [call('/hut.json', 120, { body, ...more })],
    [{ rule: 'error-in-success', about: ['/hut.json'], confidence: 'certain' }],
  );
const fine = (name: string, body: string, more: Partial<Made> = {}): Cause =>
  besideLoad(`no error inside: ${name}`, [call('/hut.json', 120, { body, ...more })], [], {
    find: ['error-in-success', 'unreadable', 'wrong-type'],
  });

const token = (expiresInS: number): string =>
  `Bearer ${[{ alg: 'HS256' }, { exp: START / 1000 + expiresInS }].map((part) => Buffer.from(JSON.stringify(part)).toString('base64url')).join('.')}.made-up`;
const dateAt = (offsetMs: number): string => new Date(START + offsetMs).toUTCString();
const HTML = '<!doctype html><title>Sign in</title>';

export const ERRORS: readonly Cause[] = [
  inside('GraphQL', '{"errors":[{"message":"no such hut"}],"data":null}'),
  inside('GraphQL with part of the data', '{"errors":[{"message":"no beds"}],"data":{"hut":null}}'),
  inside('a batch of GraphQL', '[{"data":{"hut":1}},{"errors":[{"message":"no such hut"}]}]'),
  inside('problem details', '{"type":"about:blank","title":"Hut is shut"}', { mime: 'application/problem+json' }),
  inside('success is false', '{"success":false,"message":"Hut is shut"}'),
  inside('status is "error"', '{"status":"error","message":"Hut is shut"}'),
  inside('an error with a code beside no data', '{"error":{"code":17,"message":"Hut is shut"}}'),
  fine('a measurement called error', '{"error":0.03,"mean":2.1}'),
  fine('lines of a log called errors', '{"errors":["2026-10-01 stove out","2026-10-02 lamp out"],"count":2}'),
  fine('no errors', '{"errors":[],"data":{"hut":1}}'),
  fine('an error that is null', '{"error":null,"huts":[]}'),
  fine('an empty error beside data', '{"error":"","data":{"hut":1}}'),
  fine('JSON behind a guard', ')]}\',\n{"hut":1}'),
  fine('nothing at all', '', { status: 204, size: 0 }),
  fine('lines of JSON', '{"hut":1}\n{"hut":2}\n', { mime: 'application/x-ndjson' }),
  fine('a fragment of a page that a call may have', '<li>Alba Norte</li>', {
    mime: 'text/html',
    request: { accept: 'text/html, */*' },
  }),
  besideLoad(
    'JSON that breaks off in the middle',
    [call('/hut.json', 120, { body: '{"hut":' })],
    [{ rule: 'unreadable', about: ['/hut.json'], claims: /does not parse$/ }],
  ),
  besideLoad(
    'an error’s text where a picture was asked for',
    [image('/hut.webp', 120, { body: 'not found' })],
    [{ rule: 'unreadable', about: ['/hut.webp'], claims: /is text, where an image was asked for$/ }],
  ),
  besideLoad(
    'a drawing is no text in disguise',
    [image('/hut.svg', 120, { mime: 'image/svg+xml', body: '<svg xmlns="http://www.w3.org/2000/svg"/>' })],
    [],
    { find: ['unreadable', 'wrong-type'] },
  ),
  besideLoad(
    'a page where a script was asked for',
    [code('/atlas.js', 120, { mime: 'text/html', body: HTML })],
    [{ rule: 'wrong-type', about: ['/atlas.js'], claims: /page of HTML where a script was asked for$/ }],
  ),
  besideLoad(
    'a page where JSON was asked for, by any Accept',
    [call('/a/hut.json', 120, { mime: 'text/html', body: HTML, request: { accept: '*/*' } })],
    [{ rule: 'wrong-type', about: ['/a/hut.json'] }],
  ),
  besideLoad(
    'a script of another type with nosniff',
    [code('/atlas.js', 120, { mime: 'text/plain', response: { 'x-content-type-options': 'nosniff' } })],
    [{ rule: 'unreadable', about: ['/atlas.js'], claims: /which browsers refuse with nosniff$/ }],
  ),
  besideLoad('a script of another type without nosniff', [code('/atlas.js', 120, { mime: 'text/plain' })], [], {
    find: ['unreadable'],
  }),
  besideLoad(
    'a style of another type, which some page might use',
    [style('/base.css', 120, { mime: 'text/plain' })],
    [
      {
        rule: 'unreadable',
        about: ['/base.css'],
        claims: /use in pages without a doctype only$/,
        confidence: 'strong',
      },
    ],
  ),
  besideLoad(
    'a style of another type, of another origin',
    [style(`${STATS}/tally.css`, 120, { mime: 'text/plain' })],
    [{ rule: 'unreadable', about: [`${STATS}/tally.css`], claims: /do not use$/, confidence: 'certain' }],
  ),
  besideLoad(
    'a script of another type that may be a module',
    [
      code('/atlas.mjs', 120, {
        mime: 'text/plain',
        request: { 'sec-fetch-mode': 'cors', 'sec-fetch-site': 'same-origin' },
      }),
    ],
    [{ rule: 'unreadable', about: ['/atlas.mjs'], claims: /refuse where it is a module$/, confidence: 'strong' }],
  ),
  besideLoad(
    'JSON that calls a function, run as a script',
    [code('/atlas.js', 120, { mime: 'application/json', body: 'show({"hut":1})' })],
    [],
    {
      find: ['unreadable'],
    },
  ),
  {
    name: 'a script that is not what the page demands',
    loaded: 600,
    ready: 300,
    exchanges: [
      page({
        body: '<!doctype html><script src="/atlas.js" integrity="sha256-47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU="></script>',
      }),
      code('/atlas.js', 120, { body: 'start()' }),
    ],
    must: {
      finds: [
        { rule: 'unreadable', about: ['/atlas.js'], claims: /not what the page demands by its integrity attribute/ },
      ],
    },
  },
  {
    name: 'a script that is what the page demands, by the strongest of its digests',
    loaded: 600,
    ready: 300,
    exchanges: [
      page({
        body: '<!doctype html><script src="/empty.js" integrity="sha256-AAAA sha512-z4PhNX7vuL3xVChQ1m2AB9Yg5AULVxXcg/SpIdNs6c5H0NE8XYXysP+DGNKHfuwvY7kxvUdBeoGlODJ6+SfaPg=="></script>',
      }),
      code('/empty.js', 120, { body: '' }),
    ],
    must: { finds: [] },
    mustNot: { find: ['unreadable'] },
  },
  besideLoad(
    'three files are missing',
    [
      image('/a.webp', 120, { status: 404 }),
      image('/b.webp', 125, { status: 404 }),
      image('/c.webp', 130, { status: 404 }),
    ],
    [{ rule: 'http-error', about: ['/a.webp', '/b.webp', '/c.webp'], claims: /^3 images returned 404$/ }],
    { find: ['retried', 'asked-twice'] },
  ),
  besideLoad(
    'one file is missing, three times',
    times(3, (at) => image('/a.webp', 120 + at * 3, { status: 404 })),
    [{ rule: 'http-error', about: ['/a.webp'], claims: /^a\.webp returned 404 3 times$/ }],
    { find: ['retried'] },
  ),
  besideLoad(
    'a missing icon is no more than a note',
    [image('/favicon.ico', 120, { status: 404 })],
    [{ rule: 'http-error', about: ['/favicon.ico'], severity: 'note' }],
  ),
  besideLoad(
    'a service worker’s own 503',
    [call('/beds', 120, { status: 503, wire: 0, isLocal: true, extra: { _fetchedViaServiceWorker: true } })],
    [{ rule: 'http-error', about: ['/beds'], claims: /^beds returned 503$/ }],
  ),
  besideLoad(
    'a 401 was answered by a good try with a name and a password',
    [
      call('/beds', 120, { status: 401, response: { 'www-authenticate': 'Basic realm="huts"' } }),
      call('/beds', 160, { request: { authorization: 'Basic eDp5' } }),
    ],
    [{ rule: 'retried', about: ['/beds'], severity: 'note' }],
    { find: ['http-error', 'token-expired'] },
  ),
  besideLoad(
    'a person searches again, later',
    [call('/find?q=alba', 120, { status: 500 }), call('/find?q=alba', 30_000, { status: 500 })],
    [{ rule: 'http-error', about: ['/find?q=alba'] }],
    { find: ['retried'] },
  ),
  besideLoad(
    'polls that fail now and then are no retries',
    times(8, (at) => call('/beds', 120 + at * 1000, at === 3 ? { status: 500 } : {})),
    [{ rule: 'http-error', about: ['/beds'] }],
    { find: ['retried', 'asked-twice'] },
  ),
  besideLoad(
    'a server asks for patience, by a date',
    [
      call('/beds', 120, { status: 503, response: { 'retry-after': dateAt(5000), date: dateAt(0) } }),
      call('/beds', 1150),
    ],
    [{ rule: 'retried', about: ['/beds'], claims: /failed \(503\) and was sent again once, then it worked$/ }],
  ),
  besideLoad(
    'a persisted query that the server has not seen yet',
    [call('/graphql', 120, { body: '{"errors":[{"message":"PersistedQueryNotFound"}]}' })],
    [{ rule: 'error-in-success', about: ['/graphql'], severity: 'note' }],
  ),
  besideLoad(
    'a socket is not let through',
    [{ ...failed('wss://live.cumbrera.example/beds', 120, 'Unexpected response code: 403'), kind: 'websocket' }],
    [
      {
        rule: 'socket-dropped',
        about: ['wss://live.cumbrera.example/beds'],
        claims: /^The socket beds was not opened$/,
      },
    ],
    { find: ['no-answer'] },
  ),
  besideLoad(
    'too many calls',
    [call('/beds', 120, { status: 429, response: { 'retry-after': '30' } })],
    [{ rule: 'rate-limited', about: ['/beds'] }],
    { find: ['http-error'] },
  ),
  besideLoad(
    'a token had expired',
    [call('/beds', 120, { status: 401, request: { authorization: token(-60) } })],
    [
      { rule: 'token-expired', about: ['/beds'] },
      { rule: 'http-error', about: ['/beds'] },
    ],
  ),
  besideLoad(
    'an old token, and a role that is missing',
    [
      call('/ledger', 120, {
        status: 403,
        request: { authorization: token(-60) },
        body: '{"error":"role warden required"}',
      }),
    ],
    [{ rule: 'http-error', about: ['/ledger'] }],
    { find: ['token-expired'] },
  ),
  besideLoad(
    'a token that is good by the server’s own clock, an hour behind',
    times(4, (at) =>
      call(`/beds?day=${at}`, 120 + at, {
        status: at === 0 ? 401 : 200,
        request: { authorization: token(-60) },
        response: { date: dateAt(-3_600_000 + 120) },
      }),
    ),
    [{ rule: 'http-error', about: ['/beds?day=0'] }],
    { find: ['token-expired'] },
  ),
  besideLoad(
    'a cookie was deleted, and another call is refused',
    [
      call('/out', 110, { response: { 'set-cookie': 'hint=; Max-Age=0' } }),
      call('/ledger', 160, { status: 403, request: { cookie: 'session=1' } }),
    ],
    [{ rule: 'http-error', about: ['/ledger'] }],
    { find: ['token-expired'] },
  ),
  besideLoad(
    'a redirect goes round',
    times(5, (at) => ({
      url: '/a',
      at: 120 + at * 30,
      kind: 'fetch',
      status: 302,
      response: { location: `${WWW}/a` },
      by: '/huts',
    })),
    [{ rule: 'redirect-loop', about: ['/a'] }],
    { find: ['redirect-cost', 'in-a-row'] },
  ),
];
