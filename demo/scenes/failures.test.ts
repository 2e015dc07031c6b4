import { createServer, type Server } from 'node:net';
import { createServer as createTlsServer } from 'node:tls';
import { generate } from 'selfsigned';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { SiteAnswer, SiteRequest } from '../site';
import { hostsOf, html, json, script } from './answers';
import { type Recorded, record } from './scene';

const PAGE = 'https://www.cumbrera.example';
const API = 'https://api.cumbrera.example';
const leave = (more: Readonly<Record<string, string>> = {}): Readonly<Record<string, string>> => ({
  'access-control-allow-origin': PAGE,
  ...more,
});
const asked = (main: SiteAnswer, preflight: SiteAnswer) => (request: SiteRequest) =>
  request.method === 'OPTIONS' ? preflight : main;

/** What the page does, one after the other; each by itself goes wrong. */
const STEPS = `
const quiet = (promise) => promise.then((response) => response.text()).catch(() => {});
const steps = async () => {
  await quiet(fetch('https://refused.example/refused.json'));
  await quiet(fetch('https://live.cumbrera.example/reset.json'));
  await quiet(fetch('https://live.cumbrera.example/empty.json'));
  await quiet(fetch('https://live.cumbrera.example/two-lengths.json'));
  await quiet(fetch('https://nowhere.example/name.json'));
  await quiet(fetch('https://old-tls.example/version.json'));
  await quiet(fetch('https://other-cert.example/authority.json'));
  await quiet(fetch('${API}/no-leave.json'));
  await quiet(fetch('${API}/other-origin.json'));
  await quiet(fetch('${API}/star.json', { credentials: 'include' }));
  await quiet(fetch('${API}/preflight-403.json', { method: 'PUT', body: 'x' }));
  await quiet(fetch('${API}/preflight-lacks.json', { headers: { 'x-hut': '1' } }));
  await quiet(fetch('${API}/preflight-star.json', { headers: { 'x-hut': '1' }, credentials: 'include' }));
  await quiet(fetch('${API}/leads-on.json'));
  await quiet(fetch('${API}/opaque.json', { mode: 'no-cors' }));
  await quiet(fetch('/wrong-coding.json'));
  await quiet(fetch('/cut.json'));
  const before = new AbortController();
  setTimeout(() => before.abort(), 100);
  await quiet(fetch('/given-up.json', { signal: before.signal }));
  const after = new AbortController();
  await fetch('/given-up-later.json', { signal: after.signal }).then((response) => {
    setTimeout(() => after.abort(), 80);
    return quiet(Promise.resolve(response));
  });
  await quiet(fetch('${PAGE}:6000/port.json'));
  await quiet(fetch('https://unlisted.example/policy.json'));
  await quiet(fetch('http://img.cumbrera.example/plain.json'));
  await quiet(fetch('/loop'));
  document.body.dataset.done = '1';
};
steps();`;

const LISTED = [
  "'self'",
  'https://*.cumbrera.example',
  `${PAGE}:6000`,
  'http://img.cumbrera.example',
  ...['refused', 'nowhere', 'old-tls', 'other-cert'].map((name) => `https://${name}.example`),
];
/** The digest of nothing: no script has it. */
const DIGEST_OF_NOTHING = 'sha256-47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU=';

let scene: Recorded;
const servers: Server[] = [];
beforeAll(async () => {
  const other = await generate([{ name: 'commonName', value: 'elsewhere.example' }], { algorithm: 'sha256' });
  const certificate = { key: other.private, cert: other.cert };
  const old = await listen(
    createTlsServer({ ...certificate, minVersion: 'TLSv1', maxVersion: 'TLSv1.1', ciphers: 'ALL:@SECLEVEL=0' }),
  );
  const untrusted = await listen(createTlsServer(certificate));
  const closed = createServer();
  const nobody = await listen(closed);
  closed.close();
  scene = await record({
    site: {
      oldHosts: ['live.cumbrera.example'],
      rules: [
        `MAP refused.example 127.0.0.1:${nobody}`,
        'MAP nowhere.example ^NOTFOUND',
        `MAP old-tls.example 127.0.0.1:${old}`,
        `MAP other-cert.example 127.0.0.1:${untrusted}`,
      ],
      handlers: hostsOf({
        'www.cumbrera.example/': html(
          `<img src="https://img.cumbrera.example/corp.png"><script src="/nosniff.js"></script>
           <script src="/changed.js" integrity="${DIGEST_OF_NOTHING}"></script><body><script>${STEPS}</script>`,
          { headers: { 'content-security-policy': `connect-src ${LISTED.join(' ')}` } },
        ),
        'img.cumbrera.example/corp.png': {
          body: Buffer.from('iVBORw0KGgo=', 'base64'),
          headers: { 'content-type': 'image/png', 'cross-origin-resource-policy': 'same-origin' },
        },
        'www.cumbrera.example/nosniff.js': {
          body: 'window.hut = 1',
          headers: { 'content-type': 'text/plain', 'x-content-type-options': 'nosniff' },
        },
        'www.cumbrera.example/changed.js': script('window.bed = 1'),
        'live.cumbrera.example/reset.json': { instead: (socket) => void socket.destroy() },
        'live.cumbrera.example/empty.json': { instead: (socket) => void socket.end() },
        'live.cumbrera.example/two-lengths.json': {
          instead: (socket) => void socket.end('HTTP/1.1 200 OK\r\nContent-Length: 1\r\nContent-Length: 2\r\n\r\n'),
        },
        'api.cumbrera.example/no-leave.json': json({ hut: 1 }),
        'api.cumbrera.example/other-origin.json': json(
          { hut: 1 },
          { headers: { 'access-control-allow-origin': 'https://m.cumbrera.example' } },
        ),
        'api.cumbrera.example/star.json': json({ hut: 1 }, { headers: { 'access-control-allow-origin': '*' } }),
        'api.cumbrera.example/preflight-403.json': asked(json({ hut: 1 }, { headers: leave() }), { status: 403 }),
        'api.cumbrera.example/preflight-lacks.json': asked(json({ hut: 1 }, { headers: leave() }), {
          status: 204,
          headers: leave(),
        }),
        'api.cumbrera.example/preflight-star.json': asked(json({ hut: 1 }, { headers: leave() }), {
          status: 204,
          headers: leave({ 'access-control-allow-credentials': 'true', 'access-control-allow-headers': '*' }),
        }),
        'api.cumbrera.example/leads-on.json': {
          status: 302,
          headers: leave({ location: 'https://img.cumbrera.example/led-to.json' }),
        },
        'img.cumbrera.example/led-to.json': json({ hut: 1 }),
        'api.cumbrera.example/opaque.json': json({ hut: 1 }),
        'www.cumbrera.example/wrong-coding.json': json(
          { hut: 'x'.repeat(99) },
          { headers: { 'content-encoding': 'gzip' } },
        ),
        'www.cumbrera.example/cut.json': json({ hut: 'x'.repeat(20_000) }, { breaksOff: true }),
        'www.cumbrera.example/given-up.json': json({ hut: 1 }, { thinkMs: 1500 }),
        'www.cumbrera.example/given-up-later.json': json({ hut: 'x'.repeat(50_000) }, { sendMs: 1500 }),
        'www.cumbrera.example/loop': { status: 302, headers: { location: '/loop' } },
      }),
    },
    visit: async ({ page, context }) => {
      await page.goto(`${PAGE}/`);
      await page.waitForSelector('body[data-done]', { state: 'attached' });
      await context.setOffline(true);
      await page.evaluate(() => fetch('/offline.json').catch(() => undefined));
    },
  });
});
afterAll(() => {
  for (const server of servers) server.close();
});

async function listen(server: Server): Promise<number> {
  servers.push(server);
  server.on('tlsClientError', () => undefined);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const address = server.address();
  return typeof address === 'object' && address !== null ? address.port : 0;
}

describe('what a real browser says of what went wrong', () => {
  // The path; whether the site was asked, by its own log; the rule; what it says; what it must not say.
  it.each<[path: string, reached: boolean, rule: string, says: RegExp]>([
    ['/refused.json', false, 'no-answer', /the connection was refused$/],
    ['/reset.json', true, 'no-answer', /closed (before a response had come|without a byte of response)$/],
    ['/empty.json', true, 'no-answer', /closed (before a response had come|without a byte of response)$/],
    ['/two-lengths.json', true, 'no-answer', /headers contradict each other$/],
    ['/name.json', false, 'no-answer', /host name could not be resolved$/],
    ['/version.json', false, 'no-answer', /no common TLS version or cipher/],
    ['/authority.json', false, 'no-answer', /issuer is not trusted$/],
    ['/no-leave.json', true, 'cross-origin', /possibly because CORS headers are missing$/],
    ['/other-origin.json', true, 'cross-origin', /possibly because CORS headers are missing$/],
    ['/star.json', true, 'cross-origin', /possibly because CORS headers are missing$/],
    [
      '/preflight-403.json',
      true,
      'cross-origin',
      /^The preflight for preflight-403\.json was refused: it returned 403$/,
    ],
    ['/preflight-lacks.json', true, 'cross-origin', /Access-Control-Allow-Headers lacks x-hut$/],
    [
      '/preflight-star.json',
      true,
      'cross-origin',
      /^The preflight for preflight-star\.json was possibly refused: Access-Control-Allow-Headers is \*, which does not cover cookies$/,
    ],
    ['/led-to.json', true, 'cross-origin', /possibly because CORS headers are missing$/],
    ['/opaque.json', true, 'cut-short', /returned 200, and its page could not read it$/],
    ['/wrong-coding.json', true, 'unreadable', /could not be decompressed$/],
    ['/cut.json', true, 'cut-short', /was cut off/],
    ['/given-up.json', true, 'no-answer', /was cancelled in the browser$/],
    ['/given-up-later.json', true, 'cut-short', /was cancelled in the browser after its headers had arrived$/],
    [':6000/port.json', false, 'no-answer', /browsers do not connect to this port$/],
    ['/plain.json', false, 'no-answer', /plain http from an https page$/],
    ['/loop', true, 'redirect-loop', /^loop redirects to itself: 20 times in a row$/],
    ['/offline.json', false, 'no-answer', /the recording computer was offline$/],
    ['/corp.png', true, 'no-answer', /Cross-Origin-Resource-Policy keeps it from this page$/],
    ['/nosniff.js', true, 'unreadable', /type text\/plain, which browsers refuse with nosniff$/],
    ['/changed.js', true, 'unreadable', /not what the page demands by its integrity attribute/],
  ])('%s, which reached the site: %s, is told by %s', (path, reached, rule, says) => {
    expect(scene.log.some(({ url }) => url.endsWith(path))).toBe(reached);
    const broken = scene
      .findingsAbout(path)
      .filter((finding) => finding.severity === 'broken' || finding.rule === rule);
    // One finding a matter: no second rule calls the same exchange broken.
    expect(broken.map((finding) => finding.rule)).toEqual([rule]);
    expect(broken[0]?.claim).toMatch(says);
    const row = scene.rowOf(path);
    if (row.status === undefined) expect(row.source).toBe('none');
    // Nothing that came says that it did not, and nothing that did not come is said to have.
    const saysNothingCame = /no response arrived/.test(row.sourceEvidence);
    if (['/corp.png', '/no-leave.json', '/other-origin.json', '/star.json', '/led-to.json'].includes(path))
      expect(saysNothingCame).toBe(false);
  });

  it('says nothing of what the page’s policy blocked before it was recorded', () => {
    expect([...scene.rows, ...scene.log].filter(({ url }) => url.endsWith('/policy.json'))).toEqual([]);
  });

  it('calls nothing broken that worked', () => {
    const blamed = new Set(
      scene.findings.filter(({ severity }) => severity === 'broken').flatMap(({ evidence }) => evidence),
    );
    expect(blamed.has(scene.rowOf(`${PAGE}/`).index)).toBe(false);
  });
});
