import { createServer } from 'node:http';
import { type Browser, chromium } from '@playwright/test';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { nextVisitOf, readPolicy } from '#core/cache';
import { type JsonObject, normaliseEntry } from '#core/har';
import { chromiumOptions } from '../../e2e/support/chromium';

// Whether a browser uses its copy of a response, asks about it, or fetches it anew: held against a real one, and the server's log.

type Headers = readonly (readonly [name: string, value: string])[];
interface Case {
  readonly status: number;
  readonly headers: Headers;
}

const at = (seconds: number): string => new Date(Date.now() + seconds * 1000).toUTCString();
const LONG_AGO = at(-1_000_000);
const ETAG: Headers = [['ETag', '"a"']];
const CHANGED: Headers = [['Last-Modified', LONG_AGO]];

/** Values of Cache-Control, each alone, with an ETag and with Last-Modified. */
const CONTROLS = [
  ...['max-age=60', 'max-age=0', 'max-age=-1', 'max-age=abc', 'max-age=60.5', 'max-age=', 'MAX-AGE=60', 'max-age = 60'],
  ...['max-age=60,max-age=0', 'max-age=0, max-age=60', ', max-age=60', 'max-age=60,', 'foo="max-age=60"'],
  ...['max-age=60 no-cache', 'max-age=60; no-cache', 'max-age=99999999999999', 'no-transform, max-age=60'],
  ...['no-cache', 'no-store', 'no-cache, max-age=60', 'no-store, max-age=60', 'no-store=1, max-age=60'],
  ...[
    'no-cache="set-cookie"',
    'no-cache="set-cookie", max-age=60',
    'no-cache=foo, max-age=60',
    'private="x", max-age=60',
  ],
  ...['private', 'private, max-age=60', 'public', 's-maxage=60', 's-maxage=60, max-age=0', 's-maxage=0, max-age=60'],
  ...['must-revalidate', 'must-revalidate, max-age=60', 'proxy-revalidate', 'immutable', 'max-age=60, immutable'],
  ...['stale-while-revalidate=60', 'must-understand, no-store, max-age=60', 'only-if-cached, max-age=60'],
];
const EXPIRES = [at(6000), at(-60), '0', '-1', '', 'foo'];
/** Dates that no standard of HTTP knows. */
const ODD_DATES = [
  ...[new Date(Date.now() + 6_000_000).toISOString(), at(6000).toLowerCase(), at(6000).replace(/^\w+, /, '')],
  ...[
    at(6000).replace('GMT', '+0000'),
    at(6000).replaceAll(' ', '  '),
    `"${at(6000)}"`,
    at(90_000).replace('GMT', 'EST'),
  ],
  ...[
    at(6000).replace(/ \d\d/, ' 32'),
    at(6000).replace(/\d\d:/, '25:'),
    at(6000).replace(/:\d\d /, ':75 '),
    at(6000).slice(5, 11),
  ],
];
const STATUSES = [201, 202, 203, 204, 300, 301, 307, 308, 400, 401, 403, 404, 405, 410, 414, 418, 451, 500, 501, 503];

const control = (value: string): Headers => [['Cache-Control', value]];
const ok = (...parts: readonly Headers[]): Case => ({ status: 200, headers: parts.flat() });
const CASES: readonly Case[] = [
  ok(),
  ok(ETAG),
  ok(CHANGED),
  ...CONTROLS.flatMap((value) => [ok(control(value)), ok(control(value), ETAG), ok(control(value), CHANGED)]),
  ...EXPIRES.flatMap((date) =>
    [[], control('max-age=60'), control('max-age=0'), control('max-age=abc'), control('s-maxage=60')].flatMap(
      (before) => [ok(before, [['Expires', date]]), ok(before, [['Expires', date]], ETAG)],
    ),
  ),
  ...ODD_DATES.map((date) => ok([['Expires', date]], ETAG)),
  ...['', 'a', 'W/"a"'].flatMap((tag) => [ok([['ETag', tag]]), ok(control('max-age=0'), [['ETag', tag]])]),
  ...['foo', at(100), at(-10)].map((date) => ok([['Last-Modified', date]])),
  // A busy machine takes its time: what is to be fresh stays so for minutes.
  ...['3000', '9000', '6000', '5000', 'foo', '-5', ''].map((age) => ok(control('max-age=6000'), [['Age', age]], ETAG)),
  ...[at(-120), at(12_000), 'foo', ''].flatMap((date) =>
    [control('max-age=60'), [['Expires', at(6000)]] as const, CHANGED].map((more) => ok([['Date', date]], more)),
  ),
  ...['*', 'Accept', 'Cookie', 'X-Foo', 'Accept, *', ''].map((vary) =>
    ok(control('max-age=60'), [['Vary', vary]], ETAG),
  ),
  ...['no-cache', 'foo', 'NO-CACHE'].flatMap((pragma) => [
    ok([['Pragma', pragma]], CHANGED),
    ok([['Pragma', pragma]], control('max-age=60')),
  ]),
  ...STATUSES.flatMap((status) =>
    [
      [],
      control('max-age=60'),
      CHANGED,
      control('public'),
      [['Expires', at(6000)]] as const,
      [...control('max-age=0'), ...ETAG],
    ].map((headers) => ({
      status,
      headers: status > 300 && status < 309 ? [...headers, ['Location', '/x'] as const] : headers,
    })),
  ),
];

interface Asked {
  readonly headers: Readonly<Record<string, string | readonly string[] | undefined>>;
}
const asked = new Map<number, Asked[]>();
const server = createServer((request, response) => {
  const place = Number(/^\/r\/(\d+)$/.exec(request.url ?? '')?.[1] ?? -1);
  const one = CASES[place];
  response.setHeader('Content-Type', 'text/plain');
  if (one === undefined) return void response.end('<title>huts</title>');
  asked.set(place, [...(asked.get(place) ?? []), request]);
  response.sendDate = !one.headers.some(([name]) => name === 'Date');
  for (const [name, value] of one.headers) response.appendHeader(name, value);
  const isAsking = request.headers['if-none-match'] ?? request.headers['if-modified-since'];
  response.statusCode = isAsking !== undefined && one.status === 200 ? 304 : one.status;
  response.end(response.statusCode === 304 || one.status === 204 ? undefined : 'hello');
});

let browser: Browser;
let base = '';
beforeAll(async () => {
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const address = server.address();
  base = `http://127.0.0.1:${address !== null && typeof address === 'object' ? address.port : 0}`;
  browser = await chromium.launch(chromiumOptions);
});
afterAll(async () => {
  await browser.close();
  server.close();
});

/** The exchange as a recorder would write it. */
function entryOf({ status, headers }: Case, url: string, startedAt: Date): JsonObject {
  const date = headers.some(([name]) => name === 'Date') ? [] : [['Date', startedAt.toUTCString()] as const];
  const written = [...headers, ...date].map(([name, value]) => ({ name, value }));
  return {
    startedDateTime: startedAt.toISOString(),
    time: 5,
    request: { method: 'GET', url, headers: [] },
    response: { status, headers: written, content: { size: 5, mimeType: 'text/plain' } },
    timings: { send: 0, wait: 3, receive: 2 },
  } as unknown as JsonObject;
}

it('foretells what a browser does with its copy of each response', async () => {
  const page = await browser.newPage();
  await page.goto(`${base}/`);
  const fetchAll = (places: readonly number[]) =>
    page.evaluate(
      async (urls) => {
        for (const url of urls)
          await fetch(url, { redirect: 'manual' })
            .then((response) => response.text())
            .catch(() => '');
      },
      places.map((place) => `${base}/r/${place}`),
    );
  const wrong: string[] = [];
  for (let from = 0; from < CASES.length; from += 25) {
    const places = CASES.slice(from, from + 25).map((_, place) => from + place);
    const startedAt = new Date();
    await fetchAll(places);
    await fetchAll(places);
    for (const place of places) {
      const one = CASES[place] ?? ok();
      const second = asked.get(place)?.[1]?.headers;
      const isAsking = (second?.['if-none-match'] ?? second?.['if-modified-since']) !== undefined;
      const did = second === undefined ? 'reused' : isAsking ? 'revalidated' : 'fetched';
      const policy = readPolicy(normaliseEntry(entryOf(one, `${base}/r/${place}`, startedAt), 0));
      const told = nextVisitOf(policy, 0.05);
      if (told !== did) wrong.push(`${one.status} ${JSON.stringify(one.headers)}: ${told}, but ${did}`);
    }
  }
  expect(wrong).toEqual([]);
});
