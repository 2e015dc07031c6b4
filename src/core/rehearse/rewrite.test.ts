import { createHash } from 'node:crypto';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LocalAddresses } from './addresses';
import { rewritePolicy } from './policy';
import { moveInstants, type RewriteTools, rewriteBody, rewriteHeaders } from './rewrite';

const URLS = [
  'https://www.cumbrera.example/',
  'https://www.cumbrera.example/huts',
  'https://api.cumbrera.example/huts',
  'http://www.cumbrera.example/',
  'https://api.cumbrera.example:8443/admin',
  'wss://live.cumbrera.example/beds',
  'http://localhost:3000/app',
  'http://[::1]:9000/x',
];
const addresses = new LocalAddresses(URLS, { port: 5000, isSecure: false });
const hashOf: RewriteTools['hashOf'] = (algorithm, bytes) =>
  `${algorithm}-${createHash(algorithm).update(bytes).digest('base64')}`;
const tools: RewriteTools = { hashOf, digestsOf: () => undefined };
const NO_CHANGE = { hashes: new Map<string, string>(), isChanged: false };

const rewritten = (text: string, type: string, more: Partial<RewriteTools> = {}): string =>
  new TextDecoder().decode(rewriteBody(new TextEncoder().encode(text), type, addresses, { ...tools, ...more }).bytes);

describe('the addresses of a rehearsal', () => {
  it('are HOST.localhost, with the port in front where a host had several', () => {
    expect(addresses.localUrl('https://www.cumbrera.example/huts?a=1#top')).toBe(
      'http://www.cumbrera.example.localhost:5000/huts?a=1',
    );
    expect(addresses.localUrl('http://www.cumbrera.example/')).toBe(
      'http://port-80.www.cumbrera.example.localhost:5000/',
    );
    expect(addresses.localUrl('https://api.cumbrera.example:8443/admin')).toBe(
      'http://port-8443.api.cumbrera.example.localhost:5000/admin',
    );
    expect(addresses.localUrl('http://[::1]:9000/x')).toBe('http://v6---1.localhost:5000/x');
    expect(addresses.localUrl('https://elsewhere.example/')).toBeUndefined();
  });

  it.each([
    ['www.cumbrera.example.localhost:5000', 'https://www.cumbrera.example:443'],
    ['PORT-80.www.cumbrera.example.localhost:5000', 'http://www.cumbrera.example:80'],
    ['api.cumbrera.example', 'https://api.cumbrera.example:443'],
    ['api.cumbrera.example:8443', 'https://api.cumbrera.example:8443'],
    ['v6---1.localhost:5000', 'http://[::1]:9000'],
  ])('are asked by the Host header %s', (host, origin) => {
    expect(addresses.asked(host)).toEqual({ type: 'origin', origin });
  });

  it('tell a host that was never captured, a plain loopback address, and what is neither', () => {
    expect(addresses.asked('never.example.localhost:5000')).toEqual({ type: 'unknown', host: 'never.example' });
    for (const host of ['localhost:5000', '127.0.0.1:5000', '[::1]:5000'])
      expect(addresses.asked(host)).toEqual({ type: 'any' });
    for (const host of ['evil.example', 'localhost.evil.example', 'api.cumbrera.example.evil.example', ''])
      expect(addresses.asked(host)).toBeUndefined();
  });
});

describe('rewriting', () => {
  it.each([
    [
      'a link',
      'text/html',
      '<a href="https://www.cumbrera.example/huts">',
      '<a href="http://www.cumbrera.example.localhost:5000/huts">',
    ],
    [
      'two slashes',
      'text/html',
      '<img src=//api.cumbrera.example/a.png>',
      '<img src=//api.cumbrera.example.localhost:5000/a.png>',
    ],
    [
      'entities',
      'text/html',
      '<a href="https:&#x2F;&#x2F;api.cumbrera.example&#x2F;a">',
      '<a href="http:&#x2F;&#x2F;api.cumbrera.example.localhost:5000&#x2F;a">',
    ],
    [
      'a style',
      'text/css',
      'a{background:url(https://api.cumbrera.example/a.png)}',
      'a{background:url(http://api.cumbrera.example.localhost:5000/a.png)}',
    ],
    [
      'JSON',
      'application/json',
      '{"u":"https:\\/\\/api.cumbrera.example\\/a","h":"api.cumbrera.example"}',
      '{"u":"http:\\/\\/api.cumbrera.example.localhost:5000\\/a","h":"api.cumbrera.example.localhost:5000"}',
    ],
    [
      'a socket',
      'text/javascript',
      "new WebSocket('wss://live.cumbrera.example/beds')",
      "new WebSocket('ws://live.cumbrera.example.localhost:5000/beds')",
    ],
    [
      'a host in pieces',
      'text/javascript',
      `fetch('https://' + 'api.cumbrera.example' + "/a"); \`wss://\${host}/b\``,
      `fetch('http://' + 'api.cumbrera.example.localhost:5000' + "/a"); \`ws://\${host}/b\``,
    ],
    [
      'a port',
      'text/javascript',
      '"https://api.cumbrera.example:8443/x"',
      '"http://port-8443.api.cumbrera.example.localhost:5000/x"',
    ],
    [
      'an address in capitals',
      'text/html',
      'HTTPS://WWW.Cumbrera.Example/',
      'http://www.cumbrera.example.localhost:5000/',
    ],
    [
      'the end of a sentence',
      'text/plain',
      'See https://www.cumbrera.example.',
      'See http://www.cumbrera.example.localhost:5000.',
    ],
  ])('has %s lead to the rehearsal', (_, type, text, wanted) => {
    expect(rewritten(text, type)).toBe(wanted);
  });

  it.each([
    ['a longer host', 'https://api.cumbrera.example.evil.example/'],
    ['a host with more in front', 'https://notapi.cumbrera.example/'],
    ['a host that goes on', 'https://api.cumbrera.example-two.test/'],
    ['a host that was never captured', 'https://elsewhere.example/api.cumbrera.example'],
    ['a port that was never captured', 'https://api.cumbrera.example:9999/'],
    ['an encoded address in a query', '?back=https%3A%2F%2Fapi.cumbrera.example%2F'],
    ['a comment in a script', '/a//api'],
  ])('leaves %s as it is', (_, text) => {
    expect(rewritten(text, 'text/javascript')).toBe(text);
  });

  it('leaves all other bytes as they are, whatever the charset', () => {
    const bytes = Uint8Array.of(
      0xe9,
      0x20,
      ...new TextEncoder().encode('https://www.cumbrera.example/'),
      0x80,
      0xff,
      0x00,
    );
    const made = rewriteBody(bytes, 'text/html; charset=windows-1252', addresses, tools).bytes;
    expect([made[0], made.at(-3), made.at(-2), made.at(-1)]).toEqual([0xe9, 0x80, 0xff, 0x00]);
    const png = Uint8Array.from({ length: 256 }, (__, at) => at);
    expect(rewriteBody(png, 'image/png', addresses, tools).bytes).toBe(png);
    const wide = Buffer.from('\ufeff<a href="https://www.cumbrera.example/">é', 'utf16le');
    const text = Buffer.from(rewriteBody(wide, 'text/html', addresses, tools).bytes).toString('utf16le');
    expect(text).toBe('\ufeff<a href="http://www.cumbrera.example.localhost:5000/">é');
  });

  it('is taken back from what a client sends, percent-encoded as well', () => {
    expect(addresses.takeBack('http://api.cumbrera.example.localhost:5000/a')).toBe('https://api.cumbrera.example/a');
    expect(addresses.takeBack('?u=http%3A%2F%2Fapi.cumbrera.example.localhost%3A5000%2Fa')).toBe(
      '?u=https%3A%2F%2Fapi.cumbrera.example%2Fa',
    );
    expect(addresses.takeBack('ws://live.cumbrera.example.localhost:5000')).toBe('wss://live.cumbrera.example');
    expect(addresses.takeBack('http://localhost:5000/ http://api.cumbrera.example.localhost:5001/')).toBe(
      'http://localhost:5000/ http://api.cumbrera.example.localhost:5001/',
    );
    expect(addresses.takeBack('http://port-8443.api.cumbrera.example.localhost:5000')).toBe(
      'https://api.cumbrera.example:8443',
    );
  });

  it('and taking back gives the text that was there', () => {
    const piece = fc.oneof(
      fc.constantFrom(
        'https://www.cumbrera.example/',
        '"https:\\/\\/api.cumbrera.example\\/x"',
        'https://api.cumbrera.example:8443',
        'wss://live.cumbrera.example',
        'http://localhost:3000/app',
        '//x.example/',
        'http://www.cumbrera.example/a',
      ),
      fc.string({ unit: fc.constantFrom('a', ' ', '"', '/', ':', '.', '\\', '<', 'ü') }),
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 8 }), (pieces) => {
        const text = pieces.join(' ');
        expect(addresses.takeBack(addresses.rewrite(text))).toBe(text);
      }),
    );
  });

  it('demands of a script what it is now, where it was what was demanded before', () => {
    const page =
      '<script src="/app.js" integrity="sha256-OLD="></script><link rel=stylesheet href=/a.css integrity=sha256-KEPT>';
    const asked: string[] = [];
    const made = rewritten(page, 'text/html', {
      digestsOf: (url, integrity) => {
        asked.push(`${url} ${integrity}`);
        return integrity === 'sha256-OLD=' ? 'sha256-NEW=' : undefined;
      },
    });
    expect(asked).toEqual(['/app.js sha256-OLD=', '/a.css sha256-KEPT']);
    expect(made).toBe(
      '<script src="/app.js" integrity="sha256-NEW="></script><link rel=stylesheet href=/a.css integrity=sha256-KEPT>',
    );
  });

  it('lets a policy allow inline scripts that were rewritten', () => {
    const inner = "fetch('https://api.cumbrera.example/huts')";
    const body = new TextEncoder().encode(`<p>x</p><script>${inner}</script><script>same()</script>`);
    const { hashes, bytes } = rewriteBody(body, 'text/html', addresses, tools);
    const now = /<script>(fetch.*?)<\/script>/.exec(new TextDecoder().decode(bytes))?.[1] ?? '';
    const own = hashOf('sha256', new TextEncoder().encode(inner));
    const policy = rewritePolicy(`script-src '${own}' 'sha256-other'`, addresses, hashes);
    expect(policy).toBe(`script-src '${own}' '${hashOf('sha256', new TextEncoder().encode(now))}' 'sha256-other'`);
    expect(hashes.size).toBe(3);
  });

  it.each([
    [
      "default-src 'self' https://api.cumbrera.example; upgrade-insecure-requests",
      "default-src 'self' http://api.cumbrera.example.localhost:5000",
    ],
    ['img-src https: data:; connect-src wss:', 'img-src http: data:; connect-src ws:'],
    [
      'script-src *.cumbrera.example https://*.cumbrera.example/js/',
      'script-src *.cumbrera.example.localhost:5000 http://*.cumbrera.example.localhost:5000/js/',
    ],
    [
      "frame-ancestors 'none'; report-to group-one, default-src *",
      "frame-ancestors 'none'; report-to group-one, default-src *",
    ],
  ])('makes of the policy %s one of the rehearsal', (policy, wanted) => {
    expect(rewritePolicy(policy, addresses)).toBe(wanted);
  });

  it('of a page makes its own policy one of the rehearsal', () => {
    const page = `<meta http-equiv="Content-Security-Policy" content="img-src api.cumbrera.example https://www.cumbrera.example; upgrade-insecure-requests">`;
    expect(rewritten(page, 'text/html')).toBe(
      '<meta http-equiv="Content-Security-Policy" content="img-src api.cumbrera.example.localhost:5000 http://www.cumbrera.example.localhost:5000">',
    );
  });

  it.each([
    [
      'sid=1; Domain=.cumbrera.example; Path=/; Secure; HttpOnly',
      'sid=1; Domain=cumbrera.example.localhost; Path=/; HttpOnly',
    ],
    ['a=b; SameSite=None; Secure', 'a=b; SameSite=None; Secure'],
    ['__Host-a=b; Secure; Path=/', '__Host-a=b; Secure; Path=/'],
    ['a="x; y"', 'a="x; y"'],
  ])('makes of the cookie %s one of the rehearsal', (cookie, wanted) => {
    expect(rewriteHeaders([{ name: 'Set-Cookie', value: cookie }], addresses, NO_CHANGE)).toEqual([
      { name: 'Set-Cookie', value: wanted },
    ]);
  });

  it('keeps browsers from going elsewhere, and digests from telling of other bytes', () => {
    const headers = [
      { name: 'Location', value: 'https://www.cumbrera.example/huts' },
      { name: 'Strict-Transport-Security', value: 'max-age=1' },
      { name: 'Alt-Svc', value: 'h3=":443"' },
      { name: 'Content-MD5', value: 'x' },
    ];
    const names = (isChanged: boolean) =>
      rewriteHeaders(headers, addresses, { hashes: new Map(), isChanged }).map(({ name }) => name);
    expect(names(false)).toEqual(['Location', 'Content-MD5']);
    expect(names(true)).toEqual(['Location']);
  });

  it('moves instants along, so that what was fresh is fresh again', () => {
    const headers = [
      { name: 'Date', value: 'Fri, 27 Nov 2026 21:18:59 GMT' },
      { name: 'Expires', value: 'Fri, 27 Nov 2026 22:18:59 GMT' },
      { name: 'Last-Modified', value: 'Thu, 01 Oct 2026 08:00:00 GMT' },
      { name: 'Set-Cookie', value: 'sid=1; Expires=Sat, 28 Nov 2026 21:18:59 GMT; Path=/' },
      { name: 'expires', value: '0' },
      { name: 'Retry-After', value: '120' },
    ];
    expect(moveInstants(headers, 86_400_000).map(({ value }) => value)).toEqual([
      'Sat, 28 Nov 2026 21:18:59 GMT',
      'Sat, 28 Nov 2026 22:18:59 GMT',
      'Thu, 01 Oct 2026 08:00:00 GMT',
      'sid=1; Expires=Sun, 29 Nov 2026 21:18:59 GMT; Path=/',
      '0',
      '120',
    ]);
  });
});
