import { API, type Cause, call, code, type Found, font, image, type Made, page, STATS, times } from './made';

const load = (
  name: string,
  loaded: number,
  exchanges: readonly Made[],
  finds: readonly Found[],
  mustNot: Cause['mustNot'] = {},
): Cause => ({
  name,
  loaded,
  ready: 300,
  exchanges: exchanges.some(({ kind }) => kind === 'document') ? exchanges : [page(), ...exchanges],
  must: { finds },
  mustNot,
});
const HTTP1 = { protocol: 'http/1.1' };

export const SLOW: readonly Cause[] = [
  load(
    'one endpoint is slow',
    900,
    [image('/ridge.webp', 100, { wait: 780 })],
    [{ rule: 'slow-server', about: ['/ridge.webp'], costs: [500, 760] }],
    { find: ['slow-connection'] },
  ),
  load(
    'the way to the host is long, and no server is slow',
    1900,
    [
      page({ url: '/huts', at: 0, connect: 600, ssl: 300, wait: 305 }),
      ...times(5, (at) => image(`/${at}.webp`, 950 + at, { wait: 302, receive: 8, connect: 300 })),
      image('/last.webp', 1570, { wait: 308, receive: 8, by: '/0.webp' }),
    ],
    [
      {
        rule: 'slow-connection',
        about: ['/huts', '/0.webp', '/last.webp'],
        claims: /^The way to www\.cumbrera\.example and back takes \d+ ms$/,
        confidence: 'strong',
      },
    ],
    { find: ['slow-server', 'slow-set-up'] },
  ),
  load(
    'a slow poll after the load is no matter of the load',
    400,
    [image('/ridge.webp', 100, { wait: 280 }), call('/beds/wait', 5000, { wait: 25_000 })],
    [],
    { find: ['third-party-on-route'], say: /beds/ },
  ),
  load(
    'a third party is slow, and nothing waits for it',
    500,
    [image('/ridge.webp', 100, { wait: 380 }), call(`${STATS}/visit`, 110, { wait: 900, byScript: true })],
    [],
    { say: /tallyfox/, find: ['third-party-on-route'] },
  ),
  load(
    'a third party’s script stands in the way',
    900,
    [code(`${STATS}/tally.js`, 90, { wait: 700, receive: 60 })],
    [{ rule: 'third-party-on-route', about: [`${STATS}/tally.js`], costs: [500, 800] }],
  ),
  load(
    'one download is slow by itself',
    2400,
    [
      image('/quick.webp', 100, { receive: 40, size: 100_000 }),
      image('/slow.webp', 300, { receive: 2050, size: 100_000 }),
    ],
    [{ rule: 'slow-download', about: ['/slow.webp'] }],
  ),
  load(
    'downloads share a connection, and none is slow',
    2300,
    times(10, (at) => image(`/${at}.webp`, 100, { receive: 2100, size: 60_000, wait: 30 })),
    [
      {
        rule: 'slow-connection',
        about: times(10, (at) => image(`/${at}.webp`, 0)).map(({ url }) => url),
        claims: /^The connection was full/,
      },
    ],
    { find: ['slow-download', 'slow-server'] },
  ),
  load(
    'a connection is full from the burst that begins it to its end',
    2300,
    [
      image('/burst.webp', 100, { receive: 300, size: 30_000, wait: 30 }),
      ...times(10, (at) => image(`/${at}.webp`, 100, { receive: 2100, size: 60_000, wait: 30 })),
    ],
    [
      {
        rule: 'slow-connection',
        about: ['/burst.webp', ...times(10, (at) => image(`/${at}.webp`, 0)).map(({ url }) => url)],
        claims: /^The connection was full for 2\.\d+ s/,
      },
    ],
  ),
  load(
    'more than six pictures wait for six connections',
    1100,
    times(18, (at) =>
      image(`/${at}.webp`, 100, {
        ...HTTP1,
        wait: 280,
        receive: 20,
        blocked: Math.floor(at / 6) * 300,
        connection: String(at % 6),
      }),
    ),
    [
      {
        rule: 'held-in-queue',
        about: times(12, (at) => image(`/${at + 6}.webp`, 0)).map(({ url }) => url),
        costs: [400, 620],
      },
    ],
  ),
  load(
    'pictures are held back behind a script in the head, though connections are free',
    1900,
    [
      code('/atlas.js', 90, { ...HTTP1, wait: 30, receive: 1200, size: 900_000 }),
      ...times(3, (at) => image(`/first-${at}.webp`, 100, { ...HTTP1, blocked: at * 300, wait: 280, receive: 20 })),
      ...times(6, (at) => image(`/then-${at}.webp`, 100, { ...HTTP1, blocked: 1225, wait: 480, receive: 20 })),
    ],
    [
      {
        rule: 'held-in-queue',
        about: [
          '/atlas.js',
          ...times(2, (at) => image(`/first-${at + 1}.webp`, 0)).map(({ url }) => url),
          ...times(6, (at) => image(`/then-${at}.webp`, 0)).map(({ url }) => url),
        ],
        claims: /^8 images seem to have been held back for up to 1\.2\d s until atlas\.js had come$/,
        confidence: 'weak',
      },
    ],
    { say: /waited up to|six others/i },
  ),
  load(
    'pictures wait for the queue of their proxy, with no script on its way',
    1900,
    times(6, (at) => image(`/then-${at}.webp`, 100, { ...HTTP1, blocked: 1200, wait: 480, receive: 20 })),
    [],
    { find: ['held-in-queue'] },
  ),
  load(
    'the browser was told to be slow: connects are quick, and every wait is long',
    2600,
    [
      page({ url: '/huts', at: 0, connect: 9, ssl: 5, wait: 401 }),
      ...times(4, (at) => image(`/${at}.webp`, 420 + at, { wait: 402 + at * 3 })),
      ...times(4, (at) => code(`${STATS}/${at}.js`, 430 + at, { wait: 405 + at * 4, connect: 8, ssl: 4 })),
      call('/huts.json', 900, { wait: 1400, by: '/0.webp' }),
    ],
    [
      {
        rule: 'slow-connection',
        about: ['/huts', `${STATS}/3.js`],
        claims: /^The way to www\.cumbrera\.example and 1 other host and back may take 40\d ms$/,
        confidence: 'weak',
      },
    ],
    { say: /^Waiting for .+ to respond to \d+ (images|scripts)/ },
  ),
  load(
    'a server next door is slow each time in its way',
    2600,
    [
      page({ at: 0, connect: 2, wait: 61 }),
      ...times(10, (at) => call(`/huts/${at}/beds`, 120 + at, { wait: 450 + at * 90, connect: 1, receive: 3 })),
    ],
    [
      {
        rule: 'slow-server',
        about: times(10, (at) => call(`/huts/${at}/beds`, 0)).map(({ url }) => url),
        claims: /up to 1\.26 s$/,
      },
    ],
    { find: ['slow-connection'] },
  ),
  load(
    'one request was blocked for another reason',
    700,
    [image('/ridge.webp', 100, { ...HTTP1, blocked: 400, wait: 150 })],
    [],
    { find: ['held-in-queue'] },
  ),
  load(
    'over HTTP/2 nothing waits for six connections',
    900,
    times(18, (at) => image(`/${at}.webp`, 100, { wait: 280, receive: 20, blocked: Math.floor(at / 6) * 200 })),
    [],
    { find: ['held-in-queue', 'old-protocol'] },
  ),
  load(
    'six sockets hold no requests up',
    700,
    [
      ...times(6, (at) => ({
        ...call(`wss://www.cumbrera.example/live/${at}`, 90, { ...HTTP1, wait: 10, receive: 9000 }),
        kind: 'websocket',
        status: 101,
      })),
      image('/ridge.webp', 100, { ...HTTP1, blocked: 300, wait: 250 }),
    ],
    [],
    { find: ['held-in-queue'] },
  ),
  load(
    'a picture is named by what a call gave, long after the document',
    2000,
    [
      code('/atlas.js', 90, { wait: 100, receive: 60 }),
      call('/hut.json', 300, {
        wait: 600,
        receive: 20,
        byScript: true,
        by: '/atlas.js',
        body: '{"photo":"/ridge.webp"}',
      }),
      image('/ridge.webp', 1400, { wait: 500, receive: 90, byScript: true, by: '/atlas.js' }),
    ],
    [
      { rule: 'found-late', about: ['/ridge.webp'] },
      { rule: 'gap', about: ['/hut.json', '/ridge.webp'] },
    ],
  ),
  load(
    'three calls wait for one another and use nothing of it',
    1200,
    [
      ...times(4, (at) =>
        call(`/beds?day=${at}`, 100 + at * 250, { wait: 230, receive: 10, byScript: true, body: `{"beds":${at}}` }),
      ),
      image('/ridge.webp', 1120, { wait: 60, by: '/beds?day=3', byScript: true }),
    ],
    [{ rule: 'in-a-row', about: ['/beds?day=0', '/beds?day=1', '/beds?day=2', '/beds?day=3'], costs: [600, 790] }],
  ),
  load(
    'pages of a list whose next one each answer names',
    1200,
    times(4, (at) =>
      call(`/beds?cursor=c${at}aa77`, 100 + at * 250, {
        wait: 230,
        receive: 10,
        byScript: true,
        body: `{"next":"c${at + 1}aa77"}`,
      }),
    ),
    [],
    { find: ['in-a-row'] },
  ),
  load(
    'hops of a redirect cannot be made at once',
    900,
    times(4, (at) => ({
      ...call(`/hop/${at}`, 100 + at * 150, { wait: 140, receive: 5 }),
      status: at === 3 ? 200 : 302,
      response: at === 3 ? {} : { location: `/hop/${at + 1}` },
    })),
    [],
    { find: ['in-a-row'] },
  ),
  load(
    'the same picture is fetched twice',
    500,
    [
      image('/ridge.webp', 100, { body: 'RIFF\u0000\u0001WEBP', wait: 280 }),
      image('/ridge.webp', 105, { body: 'RIFF\u0000\u0001WEBP', wait: 280 }),
    ],
    [{ rule: 'asked-twice', about: ['/ridge.webp'] }],
  ),
  load(
    'a poll asks again and again',
    500,
    [
      image('/ridge.webp', 100, { wait: 380 }),
      ...times(6, (at) => call('/beds', 120 + at * 90, { wait: 30, body: '{"beds":3}' })),
    ],
    [],
    { find: ['asked-twice', 'retried', 'in-a-row'] },
  ),
  load(
    'a poll that goes on before the body has come',
    500,
    [
      image('/ridge.webp', 100, { wait: 380 }),
      ...times(5, (at) => call('/beds', 120 + at * 90, { wait: 30, receive: 80, body: '{"beds":3}' })),
    ],
    [],
    { find: ['asked-twice'] },
  ),
  load(
    'a poll whose timer runs late',
    500,
    [
      image('/ridge.webp', 100, { wait: 380 }),
      ...[120, 210, 560, 700].map((at) => call('/beds', at, { wait: 30, body: '{"beds":3}' })),
    ],
    [],
    { find: ['asked-twice', 'in-a-row'] },
  ),
  load(
    'two redirects lead to one picture',
    500,
    [
      ...['/a', '/b'].map((url) => image(url, 100, { status: 302, response: { location: '/ridge.webp' }, wait: 40 })),
      image('/ridge.webp', 150, { body: 'RIFF\u0000\u0001WEBP' }),
      image('/ridge.webp', 151, { body: 'RIFF\u0000\u0001WEBP' }),
    ],
    [],
    { find: ['asked-twice'] },
  ),
  load(
    'connections are not used again',
    900,
    times(5, (at) => image(`/${at}.webp`, 100 + at * 150, { connect: 60, ssl: 40, wait: 60, connection: `c${at}` })),
    [{ rule: 'set-up-again', about: times(3, (at) => image(`/${at + 2}.webp`, 0)).map(({ url }) => url) }],
  ),
  load(
    'setting the first connection up takes long',
    1500,
    [
      page({ url: '/huts', at: 0, dns: 300, connect: 500, ssl: 250, wait: 100 }),
      image('/ridge.webp', 1000, { wait: 450 }),
    ],
    [{ rule: 'slow-set-up', about: ['/huts'] }],
  ),
  load(
    'each call has a preflight of its own',
    1500,
    [0, 1, 2, 3].flatMap((at): Made[] => [
      {
        ...call(`${API}/beds/${at}`, 101 + at * 300),
        method: 'OPTIONS',
        kind: 'preflight',
        status: 204,
        wait: 120,
        request: {
          origin: 'https://www.cumbrera.example',
          'access-control-request-method': 'GET',
          'access-control-request-headers': 'x-hut',
        },
        response: { 'access-control-allow-origin': '*', 'access-control-allow-headers': 'x-hut' },
      },
      call(`${API}/beds/${at}`, 100 + at * 300, {
        wait: 150,
        blocked: 126,
        request: { origin: 'https://www.cumbrera.example' },
        response: { 'access-control-allow-origin': '*' },
      }),
    ]),
    [{ rule: 'preflight-each-time', about: [0, 1, 2, 3].map((at) => `${API}/beds/${at}`) }],
    { find: ['cross-origin'] },
  ),
  load(
    'text is sent as it is',
    900,
    [code('/atlas.js', 90, { body: `start(${'"hut alba norte",'.repeat(20_000)})`, receive: 500, wait: 40 })],
    [{ rule: 'sent-uncompressed', about: ['/atlas.js'] }],
  ),
  load(
    'text was packed on its way, whatever its headers say',
    900,
    [code('/atlas.js', 90, { body: `start(${'"hut alba norte",'.repeat(8000)})`, wire: 24_000, receive: 500 })],
    [],
    { find: ['sent-uncompressed'] },
  ),
  load(
    'a small document that is not packed costs bytes and no time',
    300,
    [page({ url: '/huts', body: `<!doctype html>${'<p>hut</p>'.repeat(500)}`, receive: 200 })],
    [{ rule: 'sent-uncompressed', about: ['/huts'], severity: 'wasteful', costs: [0, 0] }],
  ),
  load(
    'a font is larger than fonts are',
    900,
    [font('/hut.woff2', 100, { size: 400_000, wait: 60, receive: 600 })],
    [{ rule: 'heavy-font', about: ['/hut.woff2'] }],
  ),
];
