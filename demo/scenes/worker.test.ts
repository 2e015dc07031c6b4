import { beforeAll, describe, expect, it } from 'vitest';
import { tally } from '#core/analysis';
import { hostsOf, html, json, script } from './answers';
import { type Recorded, record } from './scene';

const WORKER = `
self.addEventListener('install', (event) => event.waitUntil(
  caches.open('huts').then((kept) => kept.addAll(['/kept.js'])).then(() => self.skipWaiting())));
self.addEventListener('activate', (event) => event.waitUntil(self.clients.claim()));
self.addEventListener('fetch', (event) => {
  const { pathname } = new URL(event.request.url);
  if (pathname === '/kept.js') event.respondWith(caches.match('/kept.js'));
  if (pathname === '/made.json') event.respondWith(new Response('{"made":true}', { headers: { 'content-type': 'application/json' } }));
  if (pathname === '/through.json') event.respondWith(fetch(event.request));
  if (pathname === '/through-503.json') event.respondWith(fetch(event.request));
  if (pathname === '/own-503.json') event.respondWith(new Response('offline', { status: 503 }));
  if (pathname === '/fails.json') event.respondWith(Promise.reject(new Error('no')));
});`;
const CALLS = ['/made.json', '/through.json', '/through-503.json', '/own-503.json', '/fails.json', '/beside.json'];

let scene: Recorded;
let seenBefore: number;
beforeAll(async () => {
  scene = await record({
    context: { serviceWorkers: 'allow' },
    site: {
      handlers: hostsOf({
        'www.cumbrera.example/': html(
          `<script>navigator.serviceWorker.register('/sw.js').then(() => navigator.serviceWorker.ready)
             .then(() => { document.body.dataset.ready = '1'; });</script><body>`,
        ),
        'www.cumbrera.example/sw.js': script(WORKER),
        'www.cumbrera.example/kept.js': script(`window.kept = 1; // ${'kept '.repeat(600)}`),
        'www.cumbrera.example/huts': html(
          `<script src="/kept.js"></script><body><script>Promise.allSettled(${JSON.stringify(CALLS)}
             .map((url) => fetch(url).then((response) => response.text()))).then(() => { document.body.dataset.done = '1'; });</script>`,
        ),
        'www.cumbrera.example/through.json': json({ through: 'x'.repeat(500) }),
        'www.cumbrera.example/through-503.json': json({ down: true }, { status: 503 }),
        'www.cumbrera.example/beside.json': json({ beside: true }),
      }),
    },
    visit: async ({ page, log }) => {
      await page.goto('https://www.cumbrera.example/');
      await page.waitForSelector('body[data-ready]', { state: 'attached' });
      // Until its worker has claimed the page.
      await page.waitForFunction(() => navigator.serviceWorker.controller !== null);
      seenBefore = log.length;
      await page.goto('https://www.cumbrera.example/huts');
      await page.waitForSelector('body[data-done]', { state: 'attached' });
    },
  });
});

/** What the page asked for itself, not its worker. */
const asked = (path: string) => {
  const row = scene.rows.findLast(({ url, fetchedFor }) => url.endsWith(path) && fetchedFor === undefined);
  if (row === undefined) throw new Error(`nothing was recorded of ${path}`);
  return row;
};
const reached = (path: string): number => scene.log.slice(seenBefore).filter(({ url }) => url.endsWith(path)).length;

describe('a page with a service worker', () => {
  it.each([
    ['/kept.js', 'worker', 0],
    ['/made.json', 'worker', 0],
    ['/through.json', 'worker', 1],
    ['/through-503.json', 'worker', 1],
    ['/own-503.json', 'worker', 0],
    ['/fails.json', 'none', 0],
    ['/beside.json', 'network', 1],
    ['/huts', 'network', 1],
  ])('%s comes from %s, and the site was asked %i times', (path, source, times) => {
    expect([asked(path).source, reached(path)]).toEqual([source, times]);
    if (source === 'worker') expect(asked(path).wireBytes).toBe(0);
  });

  it('ties what the worker fetched to the request that it answered with it, once', () => {
    const tied = scene.rows.flatMap(({ fetchedFor, url }) => (fetchedFor === undefined ? [] : new URL(url).pathname));
    expect(tied.sort()).toEqual(['/through-503.json', '/through.json']);
    for (const row of scene.rows) {
      if (row.fetchedFor === undefined) continue;
      expect(scene.rows[row.fetchedFor]).toMatchObject({ url: row.url, fetchedAs: row.index, source: 'worker' });
      expect(row.holds).toBeUndefined();
    }
  });

  it('counts a body that came through the worker once, and as spared only what did not cross the network', () => {
    const page = scene.rows.filter(({ pageId }) => pageId === asked('/huts').pageId);
    const own = page.filter(({ fetchedFor }) => fetchedFor === undefined);
    const bytesOf = (...paths: readonly string[]): number =>
      paths.reduce((sum, path) => sum + (asked(path).bodyBytes ?? 0), 0);
    expect(tally(page)).toMatchObject({
      bodyBytes: own.reduce((sum, { bodyBytes }) => sum + (bodyBytes ?? 0), 0),
      savedBytes: bytesOf('/kept.js', '/made.json', '/own-503.json'),
    });
  });

  it('sends nobody to a server for what the worker did by itself', () => {
    const remedyOf = (path: string): string =>
      scene.findings.find(({ rule, evidence }) => rule === 'http-error' && evidence.includes(asked(path).index))
        ?.remedy ?? '';
    expect(remedyOf('/own-503.json')).toContain('service worker made this response');
    expect(remedyOf('/through-503.json')).toContain('server’s log');
    expect(scene.findings.filter(({ rule }) => rule === 'http-error')).toHaveLength(2);
    const [failed] = scene.findings.filter(({ evidence }) => evidence.includes(asked('/fails.json').index));
    expect(failed).toMatchObject({ rule: 'no-answer', confidence: 'weak' });
    expect(failed?.remedy).toContain('service worker may have failed it');
  });

  it('says of the capture that a worker was at work, and of no cache', () => {
    const told = scene.overview.condition.map(({ id }) => id);
    expect(told).toContain('worker-at-work');
    expect(told).not.toContain('cache-in-use');
    expect(scene.overview.condition.find(({ id }) => id === 'worker-at-work')?.sentence).toBe(
      'A service worker served 5 exchanges, and fetched 2 of them over the network for that.',
    );
  });

  it('finds nothing cut short in what its recorder miscounts', () => {
    expect(scene.findings.filter(({ rule }) => rule === 'cut-short')).toEqual([]);
  });
});
