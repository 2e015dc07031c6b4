import { API, type Cause, call, code, font, image, type Made, page, STATS, style, times } from './made';

/** A hero picture that ends just before `loaded` at 1,000 ms. */
const hero = image('/ridge.webp', 100, { wait: 700, receive: 190 });
const waits = (more: Partial<Made> = {}): Partial<Made> => ({ wait: 880, receive: 15, ...more });

/** What ends just before the milestone, and is waited for by no load. */
const bystanders: readonly (readonly [name: string, made: Made])[] = [
  ['a tracker’s fetch', call(`${STATS}/visit`, 105, { ...waits(), byScript: true })],
  ['a ping', { ...call(`${STATS}/ping`, 105, waits()), kind: 'ping' }],
  ['a beacon', { ...call(`${STATS}/beacon`, 105, waits()), kind: 'beacon', method: 'POST' }],
  ['a long poll', call('/beds/wait', 105, waits())],
  [
    'a socket',
    { ...call('wss://live.cumbrera.example/beds', 105, waits({ receive: 5000 })), kind: 'websocket', status: 101 },
  ],
  [
    'an event stream',
    { ...call('/beds/stream', 105, waits({ receive: 5000 })), kind: 'eventsource', mime: 'text/event-stream' },
  ],
  ['a favicon', { ...image('/favicon.ico', 105, waits()), mime: 'image/x-icon' }],
  ['a manifest', { ...call('/huts.webmanifest', 105, waits()), kind: 'manifest' }],
  ['a prefetch', code('/next.js', 105, waits({ request: { 'sec-purpose': 'prefetch' } }))],
  [
    'a preflight',
    {
      ...call(`${API}/beds`, 105, waits()),
      method: 'OPTIONS',
      kind: 'preflight',
      status: 204,
      response: { 'access-control-allow-origin': '*' },
    },
  ],
  ['what a service worker fetches', code('/warm.js', 105, waits({ extra: { _serviceWorkerRef: 'worker@1' } }))],
];

export const ROUTES: readonly Cause[] = [
  ...bystanders.map(
    ([what, made]): Cause => ({
      name: `${what} ends just before the milestone`,
      loaded: 1000,
      ready: 200,
      exchanges: [page(), hero, made],
      must: {
        last: '/ridge.webp',
        sentence: /^Loaded in 1\.00 s\. .*www\.cumbrera\.example to respond, most of it for ridge\.webp/,
      },
      mustNot: { say: /tallyfox/, find: ['third-party-on-route'] },
    }),
  ),
  {
    name: 'pictures had come before DOM ready, and a script had not',
    loaded: 950,
    ready: 900,
    exchanges: [page(), image('/ridge.webp', 100, { wait: 100 }), code('/atlas.js', 90, { wait: 600, receive: 180 })],
    must: { route: ['/huts', '/atlas.js'], sentence: /atlas\.js/ },
  },
  {
    name: 'an async script is waited for by loaded alone',
    loaded: 800,
    ready: 120,
    exchanges: [
      page({ body: '<!doctype html><script async src="/late.js"></script>' }),
      code('/late.js', 90, { wait: 600, receive: 100 }),
    ],
    must: { last: '/late.js' },
  },
  {
    name: 'a picture that is lazy ends last',
    loaded: 500,
    ready: 120,
    exchanges: [
      page({ body: '<!doctype html><img src="/hut.webp"><img loading="lazy" src="/far.webp">' }),
      image('/hut.webp', 90, { wait: 300, receive: 80 }),
      image('/far.webp', 90, { wait: 390, receive: 15 }),
    ],
    must: { last: '/hut.webp' },
  },
  {
    name: 'a picture in a frame ends last',
    loaded: 700,
    ready: 100,
    exchanges: [
      page({ request: { 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' } }),
      {
        ...page({ url: '/map', at: 90, wait: 200 }),
        by: '/huts',
        request: { 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'iframe' },
      },
      image('/tile.webp', 320, { wait: 300, receive: 70, by: '/map', request: { 'sec-fetch-mode': 'no-cors' } }),
    ],
    must: { route: ['/huts', '/map', '/tile.webp'] },
  },
  {
    name: 'a film is waited for until it can begin',
    loaded: 400,
    ready: 100,
    exchanges: [
      page(),
      { ...image('/hut.mp4', 90, { wait: 200, receive: 9000, size: 9_000_000 }), kind: 'media', mime: 'video/mp4' },
      image('/hut.webp', 90, { wait: 280, receive: 25 }),
    ],
    must: { last: '/hut.webp' },
  },
  {
    name: 'no milestone, and a slow favicon',
    exchanges: [
      page(),
      code('/atlas.js', 90, { wait: 300, receive: 400, size: 1_700_000 }),
      { ...image('/favicon.ico', 800, { wait: 900 }), mime: 'image/x-icon' },
    ],
    must: { last: '/atlas.js', sentence: /^No milestone was recorded; / },
  },
  {
    name: 'no milestone, and a slow beacon',
    exchanges: [
      page(),
      code('/atlas.js', 90, { wait: 300, receive: 400 }),
      { ...call(`${STATS}/beacon`, 700, { wait: 4000 }), kind: 'beacon' },
    ],
    must: { last: '/atlas.js' },
    mustNot: { say: /tallyfox/ },
  },
  {
    name: 'DOM ready alone is known',
    ready: 500,
    exchanges: [page(), code('/atlas.js', 90, { wait: 300, receive: 100 }), image('/ridge.webp', 90, { wait: 900 })],
    must: { last: '/atlas.js', sentence: /^Load time unknown; DOM ready after 500 ms\./ },
  },
  {
    name: 'nothing is in flight for most of the load',
    loaded: 3000,
    ready: 2900,
    exchanges: [page(), code('/atlas.js', 2600, { wait: 100, receive: 200 })],
    must: {
      sentence: /went to gaps with no request in flight/,
      finds: [{ rule: 'gap', about: ['/huts', '/atlas.js'], costs: [2300, 2600] }],
    },
    mustNot: { say: /script(s)? running|browser/ },
  },
  {
    name: 'other requests are in flight in a long gap',
    loaded: 3000,
    ready: 2900,
    exchanges: [
      page(),
      call('/beds', 100, { wait: 2300, receive: 100 }),
      code('/atlas.js', 2650, { wait: 100, receive: 200 }),
    ],
    must: { sentence: /gaps in which no request was in flight that it is known to wait for/ },
    mustNot: { say: /with no request in flight/ },
  },
  {
    name: 'calls wait for one another, 20 ms apart',
    loaded: 2000,
    ready: 150,
    exchanges: [
      page(),
      ...times(4, (at) => call(`/step/${at}`, 100 + at * 320, { wait: 290, receive: 10, byScript: true, by: '/huts' })),
      image('/ridge.webp', 1400, { wait: 500, receive: 90, by: '/step/3', byScript: true }),
    ],
    must: {
      route: ['/huts', '/step/0', '/step/1', '/step/2', '/step/3', '/ridge.webp'],
      finds: [{ rule: 'in-a-row', about: ['/step/0', '/step/1', '/step/2', '/step/3'] }],
    },
  },
  {
    name: 'two GraphQL calls to one address are no retry',
    loaded: 1500,
    ready: 150,
    exchanges: [
      page(),
      call(`${API}/graphql`, 100, {
        method: 'POST',
        payload: '{"operationName":"HutList","query":"query HutList { huts { id } }"}',
        status: 500,
        wait: 300,
        body: '{}',
      }),
      call(`${API}/graphql`, 900, {
        method: 'POST',
        payload: '{"operationName":"HutCard","query":"query HutCard { hut { id } }"}',
        wait: 300,
        body: '{"data":{}}',
      }),
      image('/ridge.webp', 1230, { wait: 200, by: `${API}/graphql`, byScript: true }),
    ],
    must: { finds: [{ rule: 'http-error', about: [`${API}/graphql`] }] },
    mustNot: { say: /pause/, find: ['retried'] },
  },
  {
    name: 'a request that failed is sent again after a pause',
    loaded: 1800,
    ready: 150,
    exchanges: [
      page(),
      code('/atlas.js', 100, { status: 503, wait: 200, receive: 5, request: { accept: '*/*' } }),
      code('/atlas.js', 1305, { wait: 300, receive: 100 }),
    ],
    must: {
      sentence: /the pause before atlas\.js \(#2\) was sent again/,
      finds: [{ rule: 'retried', about: ['/atlas.js'], costs: [1100, 1250] }],
    },
  },
  {
    name: 'redirects lead to the document',
    loaded: 700,
    ready: 650,
    exchanges: [
      {
        url: 'http://cumbrera.example/huts',
        kind: 'document',
        status: 301,
        wait: 100,
        receive: 5,
        response: { location: 'https://cumbrera.example/huts' },
      },
      {
        url: 'https://cumbrera.example/huts',
        kind: 'document',
        at: 110,
        status: 302,
        wait: 150,
        receive: 5,
        response: { location: 'https://www.cumbrera.example/huts' },
      },
      page({ at: 270, wait: 300 }),
    ],
    must: {
      route: ['http://cumbrera.example/huts', 'https://cumbrera.example/huts', '/huts'],
      finds: [
        {
          rule: 'redirect-cost',
          about: ['http://cumbrera.example/huts', 'https://cumbrera.example/huts'],
          costs: [240, 275],
        },
      ],
    },
  },
  {
    name: 'a font is named by a style that a style names',
    loaded: 900,
    ready: 400,
    exchanges: [
      page({ body: '<!doctype html><link rel="stylesheet" href="/base.css">' }),
      style('/base.css', 85, { wait: 100, body: '@import "/faces.css";' }),
      style('/faces.css', 195, {
        wait: 150,
        by: '/base.css',
        body: '@font-face { font-family: Hut; src: url(/hut.woff2) }',
      }),
      font('/hut.woff2', 380, { wait: 400, receive: 100, by: '/faces.css' }),
    ],
    must: {
      route: ['/huts', '/base.css', '/faces.css', '/hut.woff2'],
      finds: [{ rule: 'found-late', about: ['/hut.woff2'] }],
    },
  },
  {
    name: 'what was waited for longest came from the cache',
    loaded: 700,
    ready: 120,
    exchanges: [
      page(),
      image('/ridge.webp', 90, { wait: 20, receive: 580, wire: 0, isLocal: true, extra: { _fromCache: 'disk' } }),
    ],
    must: { sentence: /taking ridge\.webp \(#1\) from the browser’s cache/, sources: { '/ridge.webp': 'disk' } },
    mustNot: { say: /to respond to ridge|receiving ridge/ },
  },
  {
    name: 'what was waited for longest came from the service worker',
    loaded: 700,
    ready: 120,
    exchanges: [
      page(),
      image('/ridge.webp', 90, {
        wait: 580,
        receive: 20,
        wire: 0,
        isLocal: true,
        extra: { _fetchedViaServiceWorker: true },
      }),
    ],
    must: {
      sentence: /the page’s service worker, which served ridge\.webp \(#1\)/,
      sources: { '/ridge.webp': 'worker' },
    },
    mustNot: { say: /to respond/ },
  },
  {
    name: 'two navigations in one tab each have a load of their own',
    pages: { p: { loaded: 500, ready: 300 }, q: { at: 10_000, loaded: 300, ready: 200 } },
    exchanges: [
      page(),
      image('/ridge.webp', 100, { wait: 350 }),
      page({ url: '/beds', page: 'q', wait: 100 }),
      image('/bed.webp', 130, { wait: 150, page: 'q', by: '/beds' }),
    ],
    must: { last: '/ridge.webp', sentence: /^Loaded in 500 ms\./ },
  },
  {
    name: 'the document never came',
    loaded: 300,
    ready: 250,
    exchanges: [{ ...page(), status: -1, failure: 'net::ERR_CONNECTION_REFUSED' }],
    must: { sentence: /^The document \/huts \(#0\) never came/, finds: [{ rule: 'no-answer', about: ['/huts'] }] },
  },
];
