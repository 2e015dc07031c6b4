import { type Change, documentAnswersMs, Load } from '#core/brief';
import { type Answers, hostsOf, html, json, script } from '../demo/scenes/answers';
import { type Recorded, record, type Stage } from '../demo/scenes/scene';
import type { ExchangeRow } from '../src/core/analysis';

// What a change really gained, in a browser, against what the play of the load before it says: each load is recorded as it
// is and with the change made. Ratios of gains; times are medians.

const ROUNDS = Number(process.env['BENCH_ROUNDS'] ?? 3);
const WWW = 'https://www.cumbrera.example';
const PIXEL = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);
const picture = (thinkMs: number, bytes = 2000) => ({
  // What is no picture is given up by the browser in the middle.
  body: Buffer.concat([PIXEL, Buffer.alloc(bytes, 7)]),
  headers: { 'content-type': 'image/png', 'cache-control': 'no-store' },
  thinkMs,
});
const pictures = (host: string, count: number, thinkMs: number): Answers =>
  Object.fromEntries(Array.from({ length: count }, (_, at) => [`${host}/${at}.png`, picture(thinkMs)]));
const shown = (host: string, count: number): string =>
  Array.from({ length: count }, (_, at) => `<img src="https://${host}/${at}.png">`).join('');

interface Version {
  readonly answers: Answers;
  readonly oldHosts?: readonly string[];
  readonly from?: string;
}

interface Intervention {
  readonly name: string;
  readonly before: Version;
  readonly after: Version;
  readonly change: (rows: readonly ExchangeRow[]) => readonly Change[];
  /** Bytes each second that the line gives, and its latency in ms. */
  readonly line?: { readonly bytesPerSecond: number; readonly latencyMs: number };
}

const those = (rows: readonly ExchangeRow[], pattern: RegExp): ReadonlySet<ExchangeRow['index']> =>
  new Set(rows.filter(({ url }) => pattern.test(url)).map(({ index }) => index));
const atDocument = (rows: readonly ExchangeRow[], pattern: RegExp): Change => ({
  type: 'start-at',
  indexes: those(rows, pattern),
  startMs: documentAnswersMs(rows) ?? 0,
});

const main = (body: string, thinkMs = 60): Answers => ({ 'www.cumbrera.example/': html(body, { thinkMs }) });
const TEXT = `/* ${'alba norte, overland, ridge and saddle; '.repeat(9000)} */`;
const CALLS = ['a', 'b', 'c', 'd'];
const calls: Answers = Object.fromEntries(
  CALLS.map((name) => [`www.cumbrera.example/${name}.json`, json({ name }, { thinkMs: 180 })]),
);
const thenPicture = (how: string): string =>
  `<body><script>const ask = (name) => fetch('/' + name + '.json').then((response) => response.json());
   const show = () => { const image = new Image(); image.src = '/last.png'; document.body.append(image); };
   ${how}</script><img src="/hold.png">`;
/** Holds `loaded` up until the calls are through. */
const hold = { 'www.cumbrera.example/hold.png': picture(950), 'www.cumbrera.example/last.png': picture(600) };

const INTERVENTIONS: readonly Intervention[] = [
  {
    name: 'a script answered sooner (500 to 100 ms)',
    before: {
      answers: {
        ...main('<script src="/app.js"></script><body>'),
        'www.cumbrera.example/app.js': script('1', { thinkMs: 500 }),
      },
    },
    after: {
      answers: {
        ...main('<script src="/app.js"></script><body>'),
        'www.cumbrera.example/app.js': script('1', { thinkMs: 100 }),
      },
    },
    change: (rows) => [{ type: 'answer-in', indexes: those(rows, /app\.js/), waitMs: 100 }],
  },
  {
    name: 'a third party’s script left out',
    before: {
      answers: {
        ...main('<script src="https://stats.tallyfox.example/t.js"></script><img src="/0.png"><body>'),
        'stats.tallyfox.example/t.js': script('1', { thinkMs: 600 }),
        ...pictures('www.cumbrera.example', 1, 200),
      },
    },
    after: { answers: { ...main('<img src="/0.png"><body>'), ...pictures('www.cumbrera.example', 1, 200) } },
    change: (rows) => [{ type: 'leave-out', indexes: those(rows, /tallyfox/) }],
  },
  {
    name: 'a script compressed, on a slow line',
    line: { bytesPerSecond: 200_000, latencyMs: 40 },
    before: {
      answers: { ...main('<script src="/app.js"></script><body>'), 'www.cumbrera.example/app.js': script(TEXT) },
    },
    after: {
      answers: {
        ...main('<script src="/app.js"></script><body>'),
        'www.cumbrera.example/app.js': script(TEXT, { compress: 'gzip only' }),
      },
    },
    change: (rows) => [{ type: 'download-share', indexes: those(rows, /app\.js/), share: 0.01 }],
  },
  {
    name: 'a script compressed that pictures by HTTP/1.1 are held back behind',
    line: { bytesPerSecond: 200_000, latencyMs: 40 },
    before: {
      oldHosts: ['img.cumbrera.example'],
      answers: {
        ...main(`<script src="/app.js"></script><body>${shown('img.cumbrera.example', 24)}`),
        ...pictures('img.cumbrera.example', 24, 100),
        'www.cumbrera.example/app.js': script(TEXT),
      },
    },
    after: {
      oldHosts: ['img.cumbrera.example'],
      answers: {
        ...main(`<script src="/app.js"></script><body>${shown('img.cumbrera.example', 24)}`),
        ...pictures('img.cumbrera.example', 24, 100),
        'www.cumbrera.example/app.js': script(TEXT, { compress: 'gzip only' }),
      },
    },
    change: (rows) => [{ type: 'download-share', indexes: those(rows, /app\.js/), share: 0.01 }],
  },
  {
    name: 'a style and its picture named in the document',
    before: {
      answers: {
        ...main('<link rel="stylesheet" href="/a.css"><body class="hut">'),
        'www.cumbrera.example/a.css': {
          body: '@import "/b.css";',
          headers: { 'content-type': 'text/css' },
          thinkMs: 200,
        },
        'www.cumbrera.example/b.css': {
          body: '.hut { background: url(/0.png) }',
          headers: { 'content-type': 'text/css' },
          thinkMs: 200,
        },
        ...pictures('www.cumbrera.example', 1, 300),
      },
    },
    after: {
      answers: {
        ...main(
          '<link rel="preload" as="image" href="/0.png"><link rel="preload" as="style" href="/b.css"><link rel="stylesheet" href="/a.css"><body class="hut">',
        ),
        'www.cumbrera.example/a.css': {
          body: '@import "/b.css";',
          headers: { 'content-type': 'text/css', 'cache-control': 'max-age=60' },
          thinkMs: 200,
        },
        'www.cumbrera.example/b.css': {
          body: '.hut { background: url(/0.png) }',
          headers: { 'content-type': 'text/css', 'cache-control': 'max-age=60' },
          thinkMs: 200,
        },
        'www.cumbrera.example/0.png': {
          ...picture(300),
          headers: { 'content-type': 'image/png', 'cache-control': 'max-age=60' },
        },
      },
    },
    change: (rows) => [atDocument(rows, /0\.png|b\.css/)],
  },
  {
    name: 'a redirect left out',
    before: {
      from: '/old',
      answers: {
        'www.cumbrera.example/old': { status: 302, headers: { location: '/' }, thinkMs: 300 },
        ...main(shown('www.cumbrera.example', 1)),
        ...pictures('www.cumbrera.example', 1, 200),
      },
    },
    after: { answers: { ...main(shown('www.cumbrera.example', 1)), ...pictures('www.cumbrera.example', 1, 200) } },
    change: (rows) => [
      { type: 'leave-out', indexes: those(rows, /\/old$/) },
      { type: 'start-at', indexes: those(rows, /example\/$/), startMs: 0 },
    ],
  },
  {
    name: '24 pictures by HTTP/2 in place of HTTP/1.1',
    before: {
      oldHosts: ['img.cumbrera.example'],
      answers: { ...main(`<body>${shown('img.cumbrera.example', 24)}`), ...pictures('img.cumbrera.example', 24, 150) },
    },
    after: {
      oldHosts: [],
      answers: { ...main(`<body>${shown('img.cumbrera.example', 24)}`), ...pictures('img.cumbrera.example', 24, 150) },
    },
    change: (rows) => [{ type: 'unqueued', indexes: those(rows, /img\.cumbrera/) }],
  },
  {
    name: 'half of 24 pictures left out, by HTTP/1.1',
    before: {
      oldHosts: ['img.cumbrera.example'],
      answers: { ...main(`<body>${shown('img.cumbrera.example', 24)}`), ...pictures('img.cumbrera.example', 24, 150) },
    },
    after: {
      oldHosts: ['img.cumbrera.example'],
      answers: { ...main(`<body>${shown('img.cumbrera.example', 12)}`), ...pictures('img.cumbrera.example', 24, 150) },
    },
    change: (rows) => [{ type: 'leave-out', indexes: those(rows, /\/(1[2-9]|2\d)\.png/) }],
  },
  {
    name: 'four calls at once in place of one after the other',
    before: {
      answers: {
        ...main(
          thenPicture(`(async () => { for (const name of ${JSON.stringify(CALLS)}) await ask(name); show(); })();`),
        ),
        ...calls,
        ...hold,
      },
    },
    after: {
      answers: {
        ...main(thenPicture(`Promise.all(${JSON.stringify(CALLS)}.map(ask)).then(show);`)),
        ...calls,
        ...hold,
      },
    },
    change: (rows) => [
      {
        type: 'start-at',
        indexes: those(rows, /\.json$/),
        startMs: rows.find(({ url }) => url.endsWith('/a.json'))?.startMs ?? 0,
      },
    ],
  },
  {
    name: 'a timer of 600 ms left out',
    before: { answers: { ...main(thenPicture('setTimeout(show, 600);')), ...hold } },
    after: { answers: { ...main(thenPicture('setTimeout(show, 0);')), ...hold } },
    change: (rows) => [{ type: 'no-gap', indexes: those(rows, /last\.png/) }],
  },
  {
    name: 'a large picture left out, on a line that is full',
    line: { bytesPerSecond: 250_000, latencyMs: 20 },
    before: {
      answers: {
        ...main(`<body>${shown('www.cumbrera.example', 4)}<img src="/large.png">`),
        ...pictures('www.cumbrera.example', 4, 5),
        'www.cumbrera.example/large.png': picture(5, 250_000),
        'www.cumbrera.example/0.png': picture(5, 120_000),
        'www.cumbrera.example/1.png': picture(5, 120_000),
      },
    },
    after: {
      answers: {
        ...main(`<body>${shown('www.cumbrera.example', 4)}`),
        ...pictures('www.cumbrera.example', 4, 5),
        'www.cumbrera.example/0.png': picture(5, 120_000),
        'www.cumbrera.example/1.png': picture(5, 120_000),
      },
    },
    change: (rows) => [{ type: 'leave-out', indexes: those(rows, /large/) }],
  },
  {
    name: 'a chain of four modules preloaded',
    before: { answers: { ...main('<script type="module" src="/m0.js"></script><body>'), ...modules() } },
    after: {
      answers: {
        ...main(
          `${[1, 2, 3].map((at) => `<link rel="modulepreload" href="/m${at}.js">`).join('')}<script type="module" src="/m0.js"></script><body>`,
        ),
        ...modules(),
      },
    },
    change: (rows) => [atDocument(rows, /m[123]\.js/)],
  },
];

function modules(): Answers {
  return Object.fromEntries(
    [0, 1, 2, 3].map((at) => [
      `www.cumbrera.example/m${at}.js`,
      script(at === 3 ? 'export default 1' : `import next from '/m${at + 1}.js'; export default next`, {
        thinkMs: 150,
      }),
    ]),
  );
}

const recordVersion = (
  { answers, oldHosts = [], from = '/' }: Version,
  line: Intervention['line'],
): Promise<Recorded> =>
  record({
    site: { handlers: hostsOf(answers), oldHosts },
    visit: async ({ page, session }: Stage) => {
      if (line !== undefined) {
        const { bytesPerSecond, latencyMs } = line;
        const throughput = { downloadThroughput: bytesPerSecond, uploadThroughput: bytesPerSecond };
        await session.send('Network.emulateNetworkConditions', { offline: false, latency: latencyMs, ...throughput });
      }
      await page.goto(`${WWW}${from}`, { waitUntil: 'load' });
    },
  });

const median = (values: readonly number[]): number => values.toSorted((a, b) => a - b)[values.length >> 1] ?? 0;

console.log(`${'what was changed'.padEnd(56)} before   after   played   gained   said   said of gained`);
for (const { name, before, after, change, line } of INTERVENTIONS) {
  const [befores, afters, plays]: [number[], number[], number[]] = [[], [], []];
  for (let round = 0; round < ROUNDS; round++) {
    const first = await recordVersion(before, line);
    const second = await recordVersion(after, line);
    const [page] = first.overview.pages;
    const loadedMs = page?.loadedMs ?? Number.NaN;
    befores.push(loadedMs);
    afters.push(second.overview.pages[0]?.loadedMs ?? Number.NaN);
    plays.push(new Load(first.rows, page).play(change(first.rows))?.targetMs ?? Number.NaN);
  }
  const [was, is, played] = [median(befores), median(afters), median(plays)];
  const [gained, said] = [was - is, was - played];
  console.log(
    `${name.padEnd(56)} ${was.toFixed(0).padStart(6)} ${is.toFixed(0).padStart(7)} ${played.toFixed(0).padStart(8)} ${gained.toFixed(0).padStart(8)} ${said.toFixed(0).padStart(6)} ${(said / gained).toFixed(2).padStart(8)}`,
  );
}
