import { API, type Cause, call, code, image, page, WWW } from './made';

const UNTIMED = { timings: { send: -1, wait: -1, receive: -1 }, time: undefined };
const ZERO = { timings: { send: 0, wait: 0, receive: 0 }, time: 0 };

export const ODD: readonly Cause[] = [
  {
    name: 'no timings at all',
    loaded: 600,
    ready: 300,
    exchanges: [
      { ...page(), extra: UNTIMED },
      { ...code('/atlas.js', 100), extra: UNTIMED },
    ],
    must: {
      sentence: /^Loaded in 600 ms\. Its exchanges have no times, so what took it cannot be said\.$/,
      condition: [['no-timings', /so the time cannot be broken down/]],
    },
    mustNot: { say: /gap/, find: ['gap', 'slow-server', 'found-late', 'ready-to-loaded'] },
  },
  {
    name: 'all timings are 0',
    loaded: 600,
    ready: 300,
    exchanges: [
      { ...page(), extra: ZERO },
      { ...code('/atlas.js', 100), extra: ZERO },
    ],
    must: { sentence: /^Loaded in 600 ms\. Its exchanges have no times, so what took it cannot be said\.$/ },
    mustNot: { say: /gap/, find: ['gap', 'found-late'] },
  },
  {
    name: 'no pages, and calls alone',
    exchanges: [
      call('/beds', 0, { by: '/nowhere', wait: 200 }),
      call('/huts.json', 400, { by: '/nowhere', wait: 100 }),
    ],
    must: {
      sentence: /^No milestone was recorded; the last exchange ended after 505 ms\./,
      condition: [['no-page', /No page in the capture/]],
    },
  },
  {
    name: 'a page without exchanges',
    pages: { empty: { loaded: 500 }, p: { at: 1000, loaded: 300 } },
    exchanges: [page()],
    must: { condition: [['several-pages', /2 pages/]] },
    mustNot: { say: /undefined|NaN/ },
  },
  {
    name: 'exchanges that name no page are those of the page in force',
    loaded: 600,
    ready: 300,
    exchanges: [page(), { ...image('/ridge.webp', 100, { wait: 480 }), extra: { pageref: undefined } }],
    must: { last: '/ridge.webp' },
  },
  {
    name: 'no starts',
    loaded: 600,
    exchanges: [{ ...page(), extra: { startedDateTime: 'soon' } }],
    must: { condition: [['no-starts', /nothing can be said about the order/]] },
    mustNot: { say: /undefined|NaN/ },
  },
  {
    name: 'loaded came before DOM ready, by its recorder',
    loaded: 300,
    ready: 600,
    exchanges: [page(), image('/ridge.webp', 100, { wait: 180 })],
    must: { last: '/ridge.webp' },
  },
  {
    name: 'the clocks of page and exchanges differ: all began before the page',
    loaded: 600,
    ready: 300,
    exchanges: [page({ at: -5000 }), image('/ridge.webp', -4900, { wait: 400 })],
    must: { condition: [['page-clock-differs', /had ended before the page began: their clocks differ/]] },
    mustNot: { say: /undefined|NaN/ },
  },
  {
    name: 'a load of no time',
    loaded: 0,
    ready: 0,
    exchanges: [page({ wait: 0, receive: 0 })],
    must: { sentence: /^Loaded in 0/ },
    mustNot: { say: /undefined|NaN|of it/ },
  },
  {
    name: 'a script of a browser extension, the slowest and the last of all',
    loaded: 600,
    ready: 300,
    exchanges: [
      page(),
      image('/ridge.webp', 100, { wait: 380 }),
      {
        ...code('walker-extension://abcd/panel.js', 90, { wait: 470, size: 900_000, status: 404 }),
        protocol: 'http/1.1',
      },
      { ...code('walker-extension://abcd/panel.js', 580, { wait: 15, response: { 'cache-control': 'no-store' } }) },
    ],
    must: {
      last: '/ridge.webp',
      sources: { 'walker-extension://abcd/panel.js': 'unknown' },
      condition: [['extension-traffic', /2 exchanges have the address of a browser extension/]],
    },
    mustNot: {
      say: /abcd|panel/,
      find: ['slow-server', 'third-party-on-route', 'heavy-script', 'never-kept', 'http-error'],
    },
  },
  {
    name: 'a gap in which an extension alone was at work',
    loaded: 600,
    ready: 300,
    exchanges: [
      page(),
      { ...code('walker-extension://abcd/panel.js', 90, { wait: 300 }), by: 'walker-extension://abcd/' },
      image('/ridge.webp', 400, { wait: 180 }),
    ],
    must: { route: ['/huts', '/ridge.webp'] },
    mustNot: { say: /no request in flight|with nothing in flight/ },
  },
  {
    name: 'the page of a browser extension itself',
    loaded: 600,
    ready: 300,
    exchanges: [
      page({ url: 'walker-extension://abcd/panel.html', isLocal: true }),
      call(`${API}/huts.json`, 90, { wait: 400, status: 500, by: 'walker-extension://abcd/panel.html' }),
      { ...code('walker-extension://abcd/panel.js', 100, { wait: 480, by: 'walker-extension://abcd/panel.html' }) },
    ],
    must: {
      last: 'walker-extension://abcd/panel.js',
      finds: [{ rule: 'http-error', about: [`${API}/huts.json`] }],
    },
    mustNot: { condition: ['extension-traffic'] },
  },
  {
    name: 'the tunnel that a proxy opened, for as long as it stood',
    loaded: 600,
    ready: 300,
    exchanges: [
      { url: 'www.cumbrera.example:443', method: 'CONNECT', wait: 40, receive: 550, size: 0 },
      page({ at: 45 }),
      image('/ridge.webp', 120, { wait: 460 }),
    ],
    must: { route: ['/huts', '/ridge.webp'], sources: { 'www.cumbrera.example:443': 'network' } },
    mustNot: { say: /:443/, find: ['slow-download'], condition: ['extension-traffic'] },
  },
  {
    name: 'the pages of an app in a frame of its own, whose address is no extension',
    loaded: 600,
    exchanges: [
      page({ url: 'walkers://localhost/index.html', isLocal: true, wire: 0 }),
      call(`${WWW}/huts.json`, 100, { wait: 480, by: 'walkers://localhost/index.html' }),
    ],
    must: { sources: { 'walkers://localhost/index.html': 'unknown', '/huts.json': 'network' } },
    mustNot: { condition: ['extension-traffic'] },
  },
  {
    name: 'content that stands in its own address',
    loaded: 600,
    ready: 300,
    exchanges: [
      page(),
      image('/ridge.webp', 100, { wait: 470 }),
      { ...image('data:image/webp;base64,UklGRg==', 580, { wait: 15, receive: 1 }), isLocal: true },
    ],
    must: { last: '/ridge.webp', sources: { 'data:image/webp;base64,UklGRg==': 'unknown' } },
    mustNot: { say: /waiting for {2}|data:/ },
  },
  {
    name: 'addresses without a host',
    exchanges: [{ ...page(), extra: { request: { method: 'GET', url: '/huts', headers: [] } } }],
    must: { sentence: /^No milestone was recorded; the last exchange that a load waits for ended after 80 ms\./ },
    mustNot: { say: /waiting for {2}|on :|unknown host/ },
  },
  {
    name: 'nothing but starts, and no page',
    exchanges: [
      { ...page(), extra: UNTIMED },
      { ...code('/atlas.js', 100), extra: UNTIMED },
    ],
    must: { sentence: /^No milestone was recorded; the last exchange that a load waits for began after 100 ms\./ },
    mustNot: { say: /ended/ },
  },
];
