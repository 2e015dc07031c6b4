import { describe, expect, it } from 'vitest';
import type { SiteAnswer } from '../site';
import { hostsOf, html, json, script } from './answers';
import { type Recorded, record } from './scene';

const WWW = 'https://www.cumbrera.example';
const PIXEL = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);
const picture = (rest: SiteAnswer = {}): SiteAnswer => ({
  ...rest,
  body: PIXEL,
  headers: { 'content-type': 'image/png', ...rest.headers },
});
const open = { headers: { 'access-control-allow-origin': '*' } };
const rulesOf = ({ findings }: Recorded): readonly string[] => findings.map(({ rule }) => rule);

// A machine that stands still for a while in the middle makes another load than the scene: it is played again.
const AGAIN = { retry: 2 };

describe('what a load waits for', AGAIN, () => {
  it('is the picture, and not the tracker, the poll or the beacon that end just before it', async () => {
    const scene = await record({
      site: {
        handlers: hostsOf({
          'www.cumbrera.example/': html(
            `<body><img src="/ridge.png"><script>
              navigator.sendBeacon('https://stats.tallyfox.example/beacon', 'x');
              fetch('https://stats.tallyfox.example/visit').catch(() => {});
              const poll = () => fetch('/beds').then(() => setTimeout(poll, 60)); poll();
            </script>`,
          ),
          'www.cumbrera.example/ridge.png': picture({ thinkMs: 700 }),
          'www.cumbrera.example/beds': json({ beds: 3 }, { thinkMs: 80 }),
          'stats.tallyfox.example/visit': json({}, { ...open, thinkMs: 660 }),
          'stats.tallyfox.example/beacon': { status: 204, thinkMs: 600 },
        }),
      },
      visit: async ({ page }) => {
        await page.goto(`${WWW}/`, { waitUntil: 'load' });
        await page.waitForTimeout(300);
      },
    });
    const [brief] = scene.briefs;
    expect(brief?.page.target).toBe('loaded');
    expect(brief?.lastLeg).toBe(`${WWW}/ridge.png`);
    expect(brief?.sentence).toMatch(
      /went to waiting for www\.cumbrera\.example to respond, most of it for ridge\.png \(#\d+\)/,
    );
    expect(brief?.sentence).not.toContain('tallyfox');
    expect(rulesOf(scene)).not.toContain('third-party-on-route');
    expect(rulesOf(scene)).not.toContain('asked-twice');
    expect(scene.rowOf('/beacon').holds).toBeUndefined();
  });

  it('is what DOM ready waited for, where all pictures had come before it', async () => {
    const scene = await record({
      site: {
        handlers: hostsOf({
          'www.cumbrera.example/': html('<img src="/ridge.png"><script src="/slow.js"></script><body>'),
          'www.cumbrera.example/ridge.png': picture(),
          'www.cumbrera.example/slow.js': script('window.hut = 1', { thinkMs: 500 }),
        }),
      },
      visit: async ({ page }) => void (await page.goto(`${WWW}/`, { waitUntil: 'load' })),
    });
    expect(scene.briefs[0]?.lastLeg).toBe(`${WWW}/slow.js`);
    const slow = scene.findings.find(({ rule }) => rule === 'slow-server');
    expect(slow?.evidence).toEqual([scene.rowOf('/slow.js').index]);
    // Without its wait the load would be over that much sooner, and not more.
    expect(slow?.cost.routeMs).toBeGreaterThan(200);
    expect(slow?.cost.routeMs).toBeLessThan(scene.rowOf('/slow.js').timeMs ?? 0);
  });

  it('includes frames, and is unknown of a load that never ends', async () => {
    const scene = await record({
      site: {
        handlers: hostsOf({
          'www.cumbrera.example/': html('<body><iframe src="/map"></iframe>'),
          'www.cumbrera.example/map': html('<body><img src="/tile.png">', { thinkMs: 200 }),
          'www.cumbrera.example/tile.png': picture({ thinkMs: 300 }),
          'www.cumbrera.example/endless': html('<body><img src="/never.png">'),
          'www.cumbrera.example/never.png': picture({ thinkMs: 60_000 }),
        }),
      },
      visit: async ({ page, context }) => {
        await page.goto(`${WWW}/`, { waitUntil: 'load' });
        const next = await context.newPage();
        await next.goto(`${WWW}/endless`, { waitUntil: 'domcontentloaded' });
        await next.waitForTimeout(400);
      },
    });
    expect(scene.briefs.map(({ page, lastLeg }) => [page.target, lastLeg])).toEqual([
      ['loaded', `${WWW}/tile.png`],
      ['domReady', `${WWW}/endless`],
    ]);
    expect(scene.rowOf('/map').pageId).toBe(scene.rowOf(`${WWW}/`).pageId);
    expect(scene.briefs[1]?.sentence).toMatch(/^Load time unknown; DOM ready after /);
  });
});

/** Lines as browsers can be told to keep to: latency in ms, bytes each second. */
const lineOf = (latency: number, bytesPerSecond: number) => ({
  offline: false,
  latency,
  downloadThroughput: bytesPerSecond,
  uploadThroughput: bytesPerSecond,
});

describe('the connection to the network', AGAIN, () => {
  it('is blamed for its latency, and no server is', async () => {
    const calls = Array.from({ length: 6 }, (_, at) => `/huts/${at}.json`);
    const scene = await record({
      site: {
        handlers: hostsOf({
          'www.cumbrera.example/': html('<script src="/app.js"></script><body>'),
          'www.cumbrera.example/app.js': script("document.write('<script src=\"/more.js\"></' + 'script>')"),
          'www.cumbrera.example/more.js': script(
            `Promise.all(${JSON.stringify(calls)}.map((url) => fetch(url))).then(() => { document.body.dataset.done = '1'; })`,
          ),
          ...Object.fromEntries(calls.map((path) => [`www.cumbrera.example${path}`, json({ path })])),
        }),
      },
      visit: async ({ page, session }) => {
        await session.send('Network.emulateNetworkConditions', lineOf(400, -1));
        await page.goto(`${WWW}/`, { waitUntil: 'load' });
        await page.waitForSelector('body[data-done]', { state: 'attached' });
      },
    });
    expect(rulesOf(scene)).not.toContain('slow-server');
    const found = scene.findings.find(({ rule }) => rule === 'slow-connection');
    expect(found?.claim).toMatch(/^The way to www\.cumbrera\.example and back (takes|may take) 4\d\d ms$/);
    // A script that another one wrote into the page holds the parser up like one that stood there.
    expect(scene.briefs[0]?.lastLeg).toBe(`${WWW}/more.js`);
    expect(scene.briefs[0]?.sentence).toMatch(
      /of it \(1\.\d\d s\) went to waiting for www\.cumbrera\.example to respond/,
    );
  });

  it('is said to be full where it was, and no download is called slow for that', async () => {
    const files = Array.from({ length: 6 }, (_, at) => `/photo-${at}.png`);
    const scene = await record({
      site: {
        handlers: hostsOf({
          'www.cumbrera.example/': html(`<body>${files.map((path) => `<img src="${path}">`).join('')}`),
          ...Object.fromEntries(
            files.map((path) => [
              `www.cumbrera.example${path}`,
              { body: Buffer.concat([PIXEL, Buffer.alloc(60_000)]), headers: { 'content-type': 'image/png' } },
            ]),
          ),
        }),
      },
      visit: async ({ page, session }) => {
        await session.send('Network.emulateNetworkConditions', lineOf(20, 120_000));
        await page.goto(`${WWW}/`, { waitUntil: 'load' });
      },
    });
    expect(rulesOf(scene)).toContain('slow-connection');
    expect(scene.findings.find(({ rule }) => rule === 'slow-connection')?.claim).toMatch(/full/);
    expect(rulesOf(scene)).not.toContain('slow-download');
    expect(rulesOf(scene)).not.toContain('slow-server');
  });
});

describe('a sign-in that runs out', () => {
  const token = (expiresAt: number): string =>
    [{ alg: 'HS256' }, { exp: expiresAt }]
      .map((part) => Buffer.from(JSON.stringify(part)).toString('base64url'))
      .concat('made-up')
      .join('.');

  it('is told where the token had, and not where a role is missing', async () => {
    const now = Math.floor(Date.now() / 1000);
    const [old, fresh] = [token(now - 60), token(now + 3600)];
    const scene = await record({
      site: {
        handlers: hostsOf({
          'www.cumbrera.example/': html(`<body><script>
            const ask = (url, token) => fetch(url, { headers: { authorization: 'Bearer ' + token } });
            const run = async () => {
              if ((await ask('/beds', '${old}')).status === 401) {
                await fetch('/session', { method: 'POST', body: '{}' });
                await ask('/beds', '${fresh}');
              }
              await ask('/ledger', '${fresh}');
              document.body.dataset.done = '1';
            };
            run();
          </script>`),
          'www.cumbrera.example/beds': ({ headers }) =>
            headers['authorization'] === `Bearer ${fresh}`
              ? json({ beds: 3 })
              : json({ error: 'token expired' }, { status: 401 }),
          'www.cumbrera.example/session': json({ token: fresh }),
          'www.cumbrera.example/ledger': json({ error: 'role warden required' }, { status: 403 }),
        }),
      },
      visit: async ({ page }) => {
        await page.goto(`${WWW}/`, { waitUntil: 'load' });
        await page.waitForSelector('body[data-done]', { state: 'attached' });
      },
    });
    const about = (status: number): readonly string[] =>
      scene.findings
        .filter(({ evidence }) => evidence.some((index) => scene.rows[index]?.status === status))
        .map(({ rule, severity }) => `${rule} ${severity}`);
    // What was answered well in the end is a note, and the one that was not is no matter of a token.
    expect(about(401)).toContain('token-expired note');
    expect(about(403)).toEqual(['http-error broken']);
  });
});
