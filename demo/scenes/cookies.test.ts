import { createServer } from 'node:net';
import { type Browser, chromium, type Page } from '@playwright/test';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { findObstacles, readSentCookies, readSetCookie, whyNotSent } from '#core/content';
import { chromiumOptions } from '../../e2e/support/chromium';

// Whether a browser keeps a cookie, under which name and value, and with which requests it sends it: held against a real one.

const SITE = 'www.cumbrera.example/a/b';
const LONG = 'x'.repeat(1100);

/** Values of Set-Cookie by the address that sets them. */
const CASES: Readonly<Record<string, readonly string[]>> = {
  [SITE]: [
    ...[
      'k=v',
      'k',
      '=v',
      'k=',
      '=',
      ' k = v ',
      'k=v=w',
      'k="v w"',
      'k=a b',
      'k=v;',
      ';k=v',
      'k=v; ; HttpOnly',
      'k\t=v',
    ],
    ...['/', '/a', '/a/', '/A', 'a', '', '"/"', '/a; path=/', '/; path=', '/a/b/c', '/%61', `/${LONG}`].map(
      (path) => `k=v; path=${path}`,
    ),
    ...['cumbrera.example', '.cumbrera.example', 'CUMBRERA.example', 'www.cumbrera.example', 'example', '.example'].map(
      (domain) => `k=v; domain=${domain}`,
    ),
    ...['other.example', 'brera.example', '', 'cumbrera.example:80', 'a.www.cumbrera.example', LONG].map(
      (domain) => `k=v; domain=${domain}`,
    ),
    ...['cumbrera.example; domain=', '; domain=cumbrera.example', 'cumbrera.example.'].map(
      (domain) => `k=v; domain=${domain}`,
    ),
    ...[
      '0',
      '-1',
      '60',
      '+60',
      'abc',
      '',
      '6e1',
      '60.5',
      '"60"',
      '0; max-age=60',
      '60; max-age=0',
      '-',
      '9'.repeat(20),
    ].map((age) => `k=v; max-age=${age}`),
    'k=v; max-age=60; expires=Thu, 01 Jan 1970 00:00:00 GMT',
    'k=v; max-age=0; expires=Thu, 01 Jan 2037 00:00:00 GMT',
    ...['Thu, 01-Jan-70 00:00:00 GMT', 'Thu, 01-Jan-69 00:00:00 GMT', '0', '', '"Thu, 01 Jan 1970 00:00:00 GMT"'].map(
      (date) => `k=v; expires=${date}`,
    ),
    ...[
      'Thu Jan  1 00:00:00 1970',
      '01 Jan 1970 00:00:00',
      'Thu, 32 Jan 1970 00:00:00 GMT',
      '1970-01-01T00:00:00Z',
    ].map((date) => `k=v; expires=${date}`),
    ...['secure', 'samesite=none', 'samesite=none; secure', 'samesite=strict', 'samesite=foo', 'samesite'].map(
      (attribute) => `k=v; ${attribute}`,
    ),
    ...['partitioned', 'secure; partitioned', 'httponly=false', 'priority=high'].map(
      (attribute) => `k=v; ${attribute}`,
    ),
    ...['__Host-k=v; path=/', '__host-k=v; path=/', '__HOST-k=v', '__Secure-k=v', '__secure-k=v', '__Http-k=v'],
    ...['=__Host-k=v', '=__Secure-k', '__Secure-', '__Host', 'k=v\x01w', 'k\x01=v', 'k=v; path=/\x01', 'k=v\x7fw'],
    ...[4094, 4095, 4096].map((length) => `k=${'x'.repeat(length)}`),
  ],
  '127.0.0.1/a/b': ['k=v', 'k=v; domain=127.0.0.1', 'k=v; domain=0.0.1', 'k=v; domain=1', 'k=v; secure'],
  'localhost/a/b': ['k=v', 'k=v; domain=localhost', 'k=v; secure', '__Host-k=v; secure; path=/', '__Http-k=v; secure'],
  'app.localhost/a/b': ['k=v', 'k=v; secure', 'k=v; domain=localhost'],
  'example/a/b': ['k=v', 'k=v; domain=example'],
  ...Object.fromEntries(
    ['', '/', '/a', '/a/', '/a//b', '/a;x/b', '/a%2fb/c'].map((path) => [`www.cumbrera.example${path}`, ['k=v']]),
  ),
};
const PATHS = ['/', '/a', '/a/', '/a/b', '/a/b/c', '/ab', '/A/b', '/a?x=1', '/a//b', '/%61/b'];
const OTHER_HOSTS = ['cumbrera.example', 'a.www.cumbrera.example', 'other.example'];

let browser: Browser;
let page: Page;
let port = 0;
let toSet = '';
/** The addresses that a cookie came to. */
const sentTo = new Set<string>();
const server = createServer((socket) => {
  let text = '';
  socket.on('error', () => socket.destroy());
  socket.on('data', (chunk) => {
    text += chunk.toString('latin1');
    if (!text.includes('\r\n\r\n')) return;
    const line = text.startsWith('GET /favicon') || !/^GET \S*[?&]set /.test(text) ? '' : `Set-Cookie: ${toSet}\r\n`;
    const [, path = ''] = /^GET (\S*)/.exec(text) ?? [];
    const host = /^host: (.*)\r$/im.exec(text)?.[1] ?? '';
    const cookies = readSentCookies(/^cookie: (.*)\r$/im.exec(text)?.[1] ?? '');
    if (line === '' && cookies.length > 0) sentTo.add(`http://${host}${path}`);
    const body = '<link rel="icon" href="data:,">';
    socket.end(
      `HTTP/1.1 200 OK\r\n${line}Content-Type: text/html\r\nContent-Length: ${body.length}\r\nConnection: close\r\n\r\n${body}`,
    );
  });
});
beforeAll(async () => {
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const address = server.address();
  port = address !== null && typeof address === 'object' ? address.port : 0;
  browser = await chromium.launch({
    ...chromiumOptions,
    args: [...(chromiumOptions.args ?? []), '--host-resolver-rules=MAP example 127.0.0.1, MAP *.example 127.0.0.1'],
  });
  page = await browser.newPage();
});
afterAll(async () => {
  await browser.close();
  server.close();
});

/** What a browser that has no cookies keeps of one, and to which of the addresses it sends it. */
async function kept(place: string, value: string, asked: readonly string[]) {
  toSet = value;
  const context = page.context();
  await context.clearCookies();
  const [host = '', ...path] = place.split('/');
  const url = `http://${host}:${port}${path.length === 0 ? '' : `/${path.join('/')}`}`;
  await page.goto(`${url}?set`);
  const cookies = (await context.cookies()).map((cookie) => [cookie.name, cookie.value]);
  sentTo.clear();
  if (cookies.length > 0) {
    const isOwn = (one: string): boolean => new URL(one).hostname === host;
    await page.evaluate(
      async (urls) => void (await Promise.all(urls.map(async (one) => (await fetch(one)).text()))),
      asked.filter(isOwn),
    );
    for (const one of asked) if (!isOwn(one)) await page.goto(one);
  }
  return { url, cookies, sentTo: asked.filter((one) => sentTo.has(one)) };
}

describe('what is said of a cookie is what a browser does', () => {
  it.each(Object.entries(CASES))(
    'set by %s',
    async (place, values) => {
      const host = place.split('/', 1)[0] ?? '';
      for (const value of values) {
        // To other hosts goes at most what names a domain, or nothing but itself.
        const others = place === SITE && /domain|^k=v$/i.test(value) ? OTHER_HOSTS : [];
        const asked = [
          ...PATHS.map((path) => `http://${host}:${port}${path}`),
          ...others.map((other) => `http://${other}:${port}/a/b/c`),
        ];
        const { url, cookies, sentTo } = await kept(place, value, asked);
        const now = Date.now();
        const cookie = readSetCookie(value, now);
        const isKept = cookie !== undefined && findObstacles(cookie, url, now).length === 0;
        const context = { url, startedAt: now };
        const toBeSent = asked.filter(
          (one) =>
            isKept &&
            whyNotSent(cookie, context, {
              url: one,
              startedAt: now,
              isCrossSite: false,
              manner: 'visit',
              sent: ['another=1'],
            }) === 'unknown',
        );
        const said = isKept
          ? { cookies: [[cookie.name, cookie.value]], sentTo: toBeSent }
          : { cookies: [], sentTo: [] };
        expect({ value, cookies: said.cookies, sentTo: said.sentTo }).toEqual({ value, cookies, sentTo });
      }
    },
    120_000,
  );

  it.each(['', '; SameSite=Strict', '; SameSite=lax', '; SameSite=None; Secure', '; SameSite=Odd', '; SameSite='])(
    'from another site: k=v%s',
    async (attributes) => {
      toSet = `k=v${attributes}`;
      const [own, other] = [`http://www.cumbrera.localhost:${port}`, `http://maps.localhost:${port}`];
      await page.context().clearCookies();
      await page.goto(`${own}/?set`);
      sentTo.clear();
      await page.goto(`${other}/`);
      await page.evaluate((url) => fetch(url, { mode: 'no-cors', credentials: 'include' }), `${own}/request`);
      await page.evaluate(
        (src) =>
          new Promise((resolve) => {
            const frame = Object.assign(document.createElement('iframe'), { src, onload: resolve });
            document.documentElement.append(frame);
          }),
        `${own}/document`,
      );
      await page.evaluate((url) => location.assign(url), `${own}/visit`);
      await page.waitForURL(/visit/);
      const now = Date.now();
      const cookie = readSetCookie(toSet, now);
      const said = (['request', 'document', 'visit'] as const).filter((manner) => {
        const use = { url: `${own}/${manner}`, startedAt: now, isCrossSite: true, manner, sent: ['another=1'] };
        return cookie !== undefined && whyNotSent(cookie, { url: `${own}/`, startedAt: now }, use) === 'unknown';
      });
      expect(said).toEqual(['request', 'document', 'visit'].filter((manner) => sentTo.has(`${own}/${manner}`)));
    },
  );
});
