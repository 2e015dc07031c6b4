import { type Cause, call, code, image, page } from './made';

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
];
