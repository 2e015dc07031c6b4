import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { expect, it } from 'vitest';
import { EMPTY_DRAFT } from './draft';
import { DEFAULT_OPTIONS, findTarget } from './index';
import { RUN_ALONE, runAlone } from './testing/alone';
import { RUNNERS, type RunnerId } from './testing/runners';
import { itNeeding, withTls } from './testing/tools';

// What becomes of a proxy in code that runs: a real one is asked, or it is said that it is not.

/** What a proxy was asked for by what a target makes of a GET, with its credentials; undefined where it was not asked. */
async function askedOf(id: RunnerId, url: string, before: 'http://' | '' | 'http://walker:b%40d@') {
  const isNamed = before.includes('@');
  let asked: { readonly line: string; readonly credentials: string | undefined } | undefined;
  const note = (line: string, credentials: string | undefined): void => {
    // Some ask without credentials first, and again when they are wanted.
    asked = { line, credentials: credentials ?? asked?.credentials };
  };
  const wanting = { 'proxy-authenticate': 'Basic realm="way"' };
  const proxy = createServer(({ method, url: line, headers }, response) => {
    note(`${method} ${line}`, headers['proxy-authorization']);
    if (isNamed && headers['proxy-authorization'] === undefined) response.writeHead(407, wanting).end();
    else response.end('{"ok":true}');
  });
  proxy.on('connect', ({ url: line, headers }, socket) => {
    note(`CONNECT ${line}`, headers['proxy-authorization']);
    const isRefused = isNamed && headers['proxy-authorization'] === undefined;
    socket.on('error', () => undefined);
    socket.end(
      isRefused
        ? 'HTTP/1.1 407 Proxy Authentication Required\r\nProxy-Authenticate: Basic realm="way"\r\nContent-Length: 0\r\nConnection: close\r\n\r\n'
        : 'HTTP/1.1 502 Bad Gateway\r\nContent-Length: 0\r\nConnection: close\r\n\r\n',
    );
  });
  await new Promise<void>((resolve) => proxy.listen(0, '127.0.0.1', resolve));
  const { port } = proxy.address() as AddressInfo;
  try {
    const { warnings } = await runAlone(id, { url }, { proxy: `${before}127.0.0.1:${port}` });
    return { asked, isWarned: /proxy/i.test(warnings) };
  } finally {
    proxy.close();
    proxy.closeAllConnections();
  }
}

it.each(['dart', 'autohotkey', 'vba', 'csharp'] as const)(
  '%s writes a proxy that is an IPv6 address in brackets',
  (id) => {
    const draft = { ...EMPTY_DRAFT, url: 'http://huts.cumbrera.example/' };
    expect(findTarget(id)?.render(draft, { ...DEFAULT_OPTIONS, proxy: 'http://[::1]:8080' }).text).toContain(
      '[::1]:8080',
    );
  },
);

for (const id of RUN_ALONE)
  itNeeding(withTls(RUNNERS[id].needs), { concurrent: true })(
    `${id} goes through its proxy, or says that it does not`,
    async () => {
      // Without a scheme it is one of http.
      for (const before of ['http://', ''] as const) {
        const { asked, isWarned } = await askedOf(id, 'http://huts.cumbrera.example/here?a=1', before);
        if (isWarned) {
          expect(asked).toBeUndefined();
          return;
        }
        // Some ask it for a connection for http too.
        expect(asked?.line).toMatch(
          /^(GET http:\/\/huts\.cumbrera\.example\/here\?a=1|CONNECT huts\.cumbrera\.example:80)$/,
        );
      }
      const tunnel = await askedOf(id, 'https://huts.cumbrera.example/here', 'http://');
      expect(tunnel.asked?.line).toBe('CONNECT huts.cumbrera.example:443');
      const named = await askedOf(id, 'http://huts.cumbrera.example/here', 'http://walker:b%40d@');
      expect(named.asked).toBeDefined();
      expect(named.isWarned).toBe(named.asked?.credentials !== `Basic ${btoa('walker:b@d')}`);
    },
    600_000,
  );
