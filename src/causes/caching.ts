import { type Cause, call, code, type Found, image, loadOf, type Made, page, START, times } from './made';

/** In a load whose document is not kept. */
const load = (
  name: string,
  exchanges: readonly Made[],
  finds: readonly Found[],
  mustNot: Cause['mustNot'] = {},
): Cause => loadOf(name, [page({ response: { 'cache-control': 'no-store' } }), ...exchanges], { finds }, mustNot);
const shared = (
  name: string,
  isTold: boolean,
  response: Readonly<Record<string, string>>,
  request: Readonly<Record<string, string>> = {},
): Cause =>
  load(
    `a shared cache ${isTold ? 'may' : 'may not'} hand on: ${name}`,
    [call('/me', 120, { request, response })],
    isTold ? [{ rule: 'shared-risk', about: ['/me'] }] : [],
    { find: ['shared-risk'] },
  );
const dateAt = (offsetMs: number): string => new Date(START + offsetMs).toUTCString();
const off = (host: string, offsetMs: number, more: Partial<Made> = {}): readonly Made[] =>
  times(4, (at) =>
    image(`https://${host}/${at}.webp`, 120 + at, { response: { date: dateAt(offsetMs + 140) }, ...more }),
  );

export const CACHING: readonly Cause[] = [
  load(
    'a name that a bundler made is not kept',
    [code('/assets/index-DiwrgTda.js', 100, { size: 90_000, response: { 'cache-control': 'no-cache', etag: '"a"' } })],
    [{ rule: 'never-kept', about: ['/assets/index-DiwrgTda.js'] }],
  ),
  load(
    'a word with a number is no fingerprint',
    [image('/face1.png', 100, { response: { 'cache-control': 'no-cache', etag: '"a"' } })],
    [],
    { find: ['never-kept'] },
  ),
  load(
    'a word that looks like letters alone is no fingerprint',
    [code('/checkout-Component.js', 100, { response: { 'cache-control': 'no-cache', etag: '"a"' } })],
    [],
    { find: ['never-kept'] },
  ),
  load('a document is not to be kept', [], [], { find: ['never-kept', 'kept-too-short'] }),
  load(
    'copies are revalidated on every visit',
    times(6, (at) =>
      image(`/${at}.webp`, 100 + at, {
        status: 304,
        wire: 150,
        wait: 120,
        response: { etag: '"a"', 'cache-control': 'max-age=0' },
      }),
    ),
    [{ rule: 'checked-in-vain', about: times(6, (at) => image(`/${at}.webp`, 0)).map(({ url }) => url) }],
  ),
  shared('a cookie with a plain lifetime', true, { 'set-cookie': 'session=1', 'cache-control': 'max-age=600' }),
  shared('a cookie that is revalidated each time', false, { 'set-cookie': 'session=1', 'cache-control': 'no-cache' }),
  shared('a cookie with no lifetime for shared caches', false, {
    'set-cookie': 'session=1',
    'cache-control': 'max-age=600, s-maxage=0',
  }),
  shared('a private answer', false, { 'set-cookie': 'session=1', 'cache-control': 'private, max-age=600' }),
  shared('an answer to Authorization', false, { 'cache-control': 'max-age=600' }, { authorization: 'Basic eDp5' }),
  shared(
    'an answer to Authorization that must be revalidated',
    true,
    { 'cache-control': 'max-age=600, must-revalidate' },
    { authorization: 'Basic eDp5' },
  ),
  shared(
    'an answer to Authorization that varies by it',
    false,
    { 'cache-control': 'public, max-age=600', vary: 'Authorization' },
    { authorization: 'Basic eDp5' },
  ),
  load(
    'copies vary by the browser',
    times(4, (at) =>
      image(`/${at}.webp`, 100 + at, { response: { 'cache-control': 'max-age=600', vary: 'User-Agent' } }),
    ),
    [{ rule: 'vary-splits', about: times(4, (at) => image(`/${at}.webp`, 0)).map(({ url }) => url) }],
  ),
  load(
    'copies vary by what packs them alone',
    times(4, (at) =>
      image(`/${at}.webp`, 100 + at, { response: { 'cache-control': 'max-age=600', vary: 'Accept-Encoding' } }),
    ),
    [],
    { find: ['vary-splits'] },
  ),
  load(
    'one host’s clock is an hour ahead',
    [...off('img.cumbrera.example', 3_600_000), ...off('api.cumbrera.example', 0), ...off('www.cumbrera.example', 0)],
    [
      {
        rule: 'clock-skew',
        about: times(4, (at) => image(`https://img.cumbrera.example/${at}.webp`, 0)).map(({ url }) => url),
        claims: /img\.cumbrera\.example is 1 h ahead/,
      },
    ],
  ),
  {
    name: 'the recording computer’s clock is an hour behind all of them',
    loaded: 600,
    ready: 300,
    exchanges: [
      page(),
      ...off('img.cumbrera.example', 3_600_000),
      ...off('api.cumbrera.example', 3_600_000),
      ...off('www.cumbrera.example', 3_600_000),
    ],
    must: { condition: [['clocks-differ', /^The recording computer's clock is 1 h behind all the servers'/]] },
    mustNot: { find: ['clock-skew'] },
  },
  {
    name: 'copies of a cache on the way are a day old',
    loaded: 600,
    ready: 300,
    exchanges: [
      page(),
      ...off('img.cumbrera.example', -86_400_000, { response: { date: dateAt(-86_400_000 + 140), age: '86400' } }),
      ...off('www.cumbrera.example', 0),
    ],
    must: {},
    mustNot: { find: ['clock-skew'], condition: ['clocks-differ'] },
  },
  {
    name: 'downloads that take eight seconds tell of no clock',
    loaded: 9000,
    ready: 300,
    exchanges: [
      page(),
      ...off('img.cumbrera.example', 0, { receive: 8000, response: { date: dateAt(140) } }),
      ...off('www.cumbrera.example', 0),
    ],
    must: {},
    mustNot: { find: ['clock-skew'], condition: ['clocks-differ'] },
  },
  {
    name: 'a copy on disk has no wire bytes, and no server',
    loaded: 600,
    ready: 300,
    exchanges: [page(), image('/ridge.webp', 100, { wire: 40_000, extra: { _fromCache: 'disk' }, receive: 480 })],
    must: { sources: { '/ridge.webp': 'disk' }, sentence: /cache/ },
    mustNot: { find: ['slow-download', 'no-validator', 'heavy-image'] },
  },
  {
    name: 'a worker is known by the requests that it makes',
    loaded: 600,
    ready: 300,
    exchanges: [
      page(),
      code('/atlas.js', 100, { wire: 0, isLocal: true, wait: 80 }),
      code('/atlas.js', 105, { extra: { _serviceWorkerRef: 'worker@1' }, wait: 60 }),
      image('/kept.webp', 100, { wire: 0, isLocal: true }),
    ],
    must: {
      sources: { '/kept.webp': 'worker' },
      condition: [
        ['worker-at-work', /^A service worker served 2 exchanges, and fetched 1 of them over the network for that\.$/],
      ],
    },
    mustNot: { condition: ['cache-in-use'], find: ['asked-twice'] },
  },
  {
    name: 'without a sign of a worker, what crossed no wire is a cache’s',
    loaded: 600,
    ready: 300,
    exchanges: [page(), image('/kept.webp', 100, { wire: 0, isLocal: true })],
    must: { sources: { '/kept.webp': 'cache' }, condition: [['cache-in-use', /browser.s cache was used/]] },
    mustNot: { condition: ['worker-at-work'] },
  },
];
