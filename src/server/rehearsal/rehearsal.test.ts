import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { request as requestByTls } from 'node:https';
import { type AddressInfo, connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { brotliDecompressSync } from 'node:zlib';
import { afterEach, describe, expect, it } from 'vitest';
import { WebSocket } from 'ws';
import { bodyAsSent, readPayloadContent } from '#core/content';
import { type Exchange, findHeader, findResponse, sentPayloadBytes } from '#core/model';
import { originOf, shownOrigin } from '#core/rehearse';
import { inflateWithZlib } from '../inflate';
import { ask, type PlainResponse, type Rehearsed, rehearseFile } from '../testing/rehearsed';
import { certify } from './certify';
import { forwarder } from './forward';
import type { AskedRecord } from './rehearsal-server';

const FOLDERS = ['demo/captures', '../shared/captures'].filter(existsSync);
const CAPTURES = FOLDERS.flatMap((folder) =>
  readdirSync(folder)
    .filter((name) => name.endsWith('.har'))
    .map((name) => join(folder, name)),
);
/** Headers that a plain client makes for itself, and conditions on a copy that it does not have. */
const OWN = /^(?::|connection$|content-length$|transfer-encoding$|upgrade$|host$|expect$)/i;
const CONDITIONS = /^if-(?:none-match|modified-since)$/i;

/** Asks what an exchange asked, with its own headers, at its own host. */
function askAgain(port: number, { request, ...exchange }: Exchange): Promise<PlainResponse> {
  const status = findResponse({ request, ...exchange })?.status;
  const headers = request.headers.filter(({ name }) => !OWN.test(name) && (status === 304 || !CONDITIONS.test(name)));
  const origin = shownOrigin(originOf(request.url) ?? '');
  const payload = request.payload && readPayloadContent(request.payload, request.bodyBytes);
  // Of what the capture does not hold the length is known at least, by the request's headers where by nothing else.
  const sent = sentPayloadBytes(request);
  const unknown = sent === 0 ? undefined : new Uint8Array(sent === 'some' ? 1 : sent);
  const body = payload?.type === 'bytes' && payload.bytes.length > 0 ? payload.bytes : unknown;
  const isStream = exchange.kind.value === 'stream';
  const response = findResponse({ request, ...exchange });
  const length = (response && bodyAsSent(response, inflateWithZlib)?.length) ?? 0;
  return ask({
    port,
    method: request.method,
    target: request.url.slice(request.url.indexOf('/', 8)).replace(/#.*$/s, '') || '/',
    headers: [{ name: 'Host', value: origin.replace(/^https?:\/\//, '') }, ...headers],
    ...(body === undefined ? {} : { body }),
    // Nobody closes a stream that is held open.
    ...(isStream ? { enoughBytes: length } : {}),
    patienceMs: 1500,
  });
}

function unpacked({ headers, bytes }: PlainResponse): Uint8Array {
  const coding = findHeader(headers, 'content-encoding');
  return coding === undefined ? bytes : (inflateWithZlib(bytes, coding as 'gzip', 1e9) ?? bytes);
}

describe('what a rehearsal gives', () => {
  it.each(CAPTURES)('is what was captured, by status and by bytes: %s', { timeout: 180_000 }, async (path) => {
    const rehearsal = await rehearseFile(path);
    const wrong: string[] = [];
    let compared = 0;
    for (const { index, isSocket } of rehearsal.recording.requests) {
      const exchange = rehearsal.recording.read(index);
      const response = findResponse(exchange);
      if (isSocket || response?.status === 101) continue;
      const came = await askAgain(rehearsal.port, exchange).catch((error: unknown) => error as Error);
      compared++;
      const told = `#${index} ${exchange.request.method} ${exchange.request.url}`;
      if (response === undefined || exchange.outcome.type === 'cut') {
        // A browser gives up a page that has no content; a stream is held open.
        const isWhole = exchange.kind.value === 'stream' || response?.status === 204;
        if (!(came instanceof Error) && !isWhole) wrong.push(`${told}: ${came.status} where nothing whole came`);
        continue;
      }
      if (came instanceof Error) wrong.push(`${told}: ${came.message}`);
      else if (came.status !== response.status) wrong.push(`${told}: ${came.status}, not ${response.status}`);
      else {
        const body = bodyAsSent(response, inflateWithZlib);
        const isNone = exchange.request.method === 'HEAD' || response.status === 304 || response.status === 204;
        const wanted = isNone ? new Uint8Array() : (body ?? new Uint8Array());
        if (Buffer.compare(Buffer.from(unpacked(came)), Buffer.from(wanted)) !== 0)
          wrong.push(`${told}: ${came.bytes.length} bytes that are others than the captured ${wanted.length}`);
      }
    }
    await rehearsal.close();
    expect(wrong).toEqual([]);
    expect(compared).toBeGreaterThan(5);
    const verdicts = rehearsal.asked.map(({ notes }) => `${notes.fits} ${notes.taken}`);
    expect(verdicts.filter((verdict) => !verdict.startsWith('fits'))).toEqual([]);
  });
});

const API = 'https://api.cumbrera.example';
const folder = mkdtempSync(join(tmpdir(), 'trazado-har-'));
process.once('exit', () => rmSync(folder, { recursive: true, force: true }));
let count = 0;

interface MadeEntry {
  readonly method?: string;
  readonly url: string;
  readonly asked?: Readonly<Record<string, string>>;
  readonly text?: string;
  readonly status?: number;
  readonly headers?: Readonly<Record<string, string>>;
  readonly type?: string;
  readonly body?: string;
  readonly more?: object;
  readonly error?: string;
}

const listed = (headers: Readonly<Record<string, string>> = {}) =>
  Object.entries(headers).map(([name, value]) => ({ name, value }));

/** A HAR file of these exchanges. */
function harOf(made: readonly MadeEntry[]): string {
  const entries = made.map(
    ({ method = 'GET', url, asked, text, status = 200, headers, type, body, more, error }, at) => ({
      startedDateTime: new Date(Date.UTC(2026, 9, 5, 8) + at * 10).toISOString(),
      time: 30,
      request: {
        method,
        url,
        headers: listed(asked),
        ...(text === undefined ? {} : { postData: { mimeType: asked?.['Content-Type'] ?? 'application/json', text } }),
      },
      response: {
        status,
        headers: listed(headers),
        content: {
          mimeType: type ?? headers?.['Content-Type'] ?? 'text/plain',
          size: body?.length ?? -1,
          ...(body === undefined ? {} : { text: body }),
        },
        ...(error === undefined ? {} : { _error: error }),
      },
      timings: { send: 0, wait: 120, receive: 60 },
      ...more,
    }),
  );
  const path = join(folder, `${count++}.har`);
  writeFileSync(path, JSON.stringify({ log: { version: '1.2', creator: { name: 'made', version: '1' }, entries } }));
  return path;
}

let open: Rehearsed[] = [];
afterEach(async () => {
  await Promise.all(open.map((one) => one.close()));
  open = [];
});
const rehearse = async (
  made: readonly MadeEntry[],
  ...more: Parameters<typeof rehearseFile> extends [string, ...infer Rest] ? Rest : never
): Promise<Rehearsed> => {
  const one = await rehearseFile(harOf(made), ...more);
  open.push(one);
  return one;
};
const get = (port: number, target: string, headers: Readonly<Record<string, string>> = {}, method = 'GET') =>
  ask({ port, target, method, headers: listed({ Host: `127.0.0.1:${port}`, ...headers }), patienceMs: 3000 });
const textOf = ({ bytes }: PlainResponse): string => bytes.toString();

/** Speaks bytes, and hears bytes until the connection ends or a while has passed. */
function speak(port: number, text: string, forMs = 600): Promise<string> {
  return new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1', () => socket.write(text));
    let heard = '';
    socket.on('data', (chunk: Buffer) => {
      heard += chunk.toString('latin1');
    });
    socket.on('error', () => undefined);
    const end = (): void => {
      socket.destroy();
      resolve(heard);
    };
    socket.on('close', end);
    setTimeout(end, forMs);
  });
}

describe('a rehearsal on the wire', () => {
  const HUTS: MadeEntry = {
    url: `${API}/huts`,
    headers: { 'Content-Type': 'application/json', 'Content-Encoding': 'br' },
    body: '{"huts":["https://api.cumbrera.example/huts/alba"]}',
  };

  it('compresses as captured where the client takes it, and gives HEAD the length', async () => {
    const { port } = await rehearse([HUTS]);
    const packed = await get(port, '/huts', { 'Accept-Encoding': 'gzip, br' });
    expect(findHeader(packed.headers, 'content-encoding')).toBe('br');
    expect(brotliDecompressSync(packed.bytes).toString()).toBe(HUTS.body);
    for (const accepted of [{}, { 'Accept-Encoding': 'gzip' }, { 'Accept-Encoding': 'br;q=0, *' }]) {
      const plain = await get(port, '/huts', accepted as Record<string, string>);
      expect([findHeader(plain.headers, 'content-encoding'), textOf(plain)]).toEqual([undefined, HUTS.body]);
    }
    const head = await get(port, '/huts', {}, 'HEAD');
    expect([head.status, head.bytes.length, findHeader(head.headers, 'content-length')]).toEqual([
      200,
      0,
      String(HUTS.body?.length),
    ]);
  });

  it('gives HEAD the length that was captured where no body was, and none that nobody knows', async () => {
    const { port } = await rehearse([
      { method: 'HEAD', url: `${API}/film`, headers: { 'Content-Length': '1234' }, body: '' },
      {
        method: 'HEAD',
        url: `${API}/packed`,
        headers: { 'Content-Length': '77', 'Content-Encoding': 'br' },
        body: '',
      },
      { method: 'HEAD', url: `${API}/chunked`, headers: { 'Transfer-Encoding': 'chunked' }, body: '' },
      { url: `${API}/lost`, headers: { 'Content-Length': '500' } },
    ]);
    const lengthOf = async (path: string, headers: Readonly<Record<string, string>> = {}) => {
      const { status, headers: given } = await get(port, path, headers, 'HEAD');
      return [status, findHeader(given, 'content-length'), findHeader(given, 'content-encoding')];
    };
    expect(await lengthOf('/film')).toEqual([200, '1234', undefined]);
    expect(await lengthOf('/packed', { 'Accept-Encoding': 'br' })).toEqual([200, '77', 'br']);
    expect(await lengthOf('/packed')).toEqual([200, undefined, undefined]);
    expect(await lengthOf('/chunked')).toEqual([200, undefined, undefined]);
    expect(await lengthOf('/lost')).toEqual([200, '500', undefined]);
  });

  it('rewrites addresses where it is asked to, and takes them back where they are sent', async () => {
    const made = [
      HUTS,
      { url: `${API}/huts/alba`, headers: { Location: `${API}/x` }, status: 302 },
      {
        method: 'POST',
        url: `${API}/log?at=${encodeURIComponent(`${API}/huts`)}`,
        text: `{"u":"${API}/huts"}`,
        body: 'ok',
      },
    ];
    const { port, asked } = await rehearse(made, { rewrites: true });
    const local = `http://api.cumbrera.example.localhost:${port}`;
    expect(textOf(await get(port, '/huts'))).toBe(`{"huts":["${local}/huts/alba"]}`);
    expect(findHeader((await get(port, '/huts/alba')).headers, 'location')).toBe(`${local}/x`);
    const sent = await ask({
      port,
      method: 'POST',
      target: `/log?at=${encodeURIComponent(`${local}/huts`)}`,
      headers: listed({
        Host: `api.cumbrera.example.localhost:${port}`,
        'Content-Type': 'application/json',
        Origin: local,
      }),
      body: Buffer.from(`{"u":"${local}/huts"}`),
    });
    expect([sent.status, asked.at(-1)?.notes.taken]).toEqual([200, 2]);
  });

  it("shows the beginning of a payload as it arrived, with the rehearsal's own addresses in it", async () => {
    const { port, asked } = await rehearse([{ method: 'POST', url: `${API}/x`, body: 'ok' }]);
    const local = `http://api.cumbrera.example.localhost:${port}/`;
    const body = Buffer.concat([Buffer.from([0, 255, 128]), Buffer.from(local), Buffer.alloc(10_000, 'a')]);
    await ask({ port, method: 'POST', target: '/x', headers: listed({ Host: `127.0.0.1:${port}` }), body });
    const { text = '', bytes } = asked[0]?.notes.payload ?? {};
    expect([text.slice(0, 3 + local.length), text.length, bytes]).toEqual([`\0\xff\x80${local}`, 4096, body.length]);
  });

  it('keeps what arrived to the byte: the order, the letters and the blanks of its head', async () => {
    const { port, asked } = await rehearse([
      { method: 'POST', url: `${API}/x`, text: 'abc', asked: { 'Content-Type': 'text/plain' }, body: 'ok' },
    ]);
    const head = `POST /x HTTP/1.1\r\nHOST: 127.0.0.1:${port}\r\nx-B:   two \r\nX-a: one\r\ncontent-TYPE: text/plain`;
    const chunked = `${head}\r\nTransfer-Encoding: chunked\r\n\r\n2\r\nab\r\n1\r\nc\r\n0\r\n\r\n`;
    const plain = `${head}\r\nContent-Length: 3\r\n\r\nabc`;
    // Three on one connection, the second before the first is answered.
    const heard = await speak(port, plain + chunked + plain);
    expect(heard.match(/HTTP\/1.1 200/g)).toHaveLength(3);
    expect(asked.map(({ notes }) => notes.head)).toEqual([
      `${head}\r\nContent-Length: 3`,
      `${head}\r\nTransfer-Encoding: chunked`,
      `${head}\r\nContent-Length: 3`,
    ]);
    expect(asked.map(({ notes }) => notes.payload)).toEqual(Array(3).fill({ text: 'abc', bytes: 3 }));
    expect(
      asked.map(({ notes }) => notes.differences.filter(({ excuse }) => excuse === undefined).map(({ name }) => name)),
    ).toEqual(Array(3).fill(['x-b', 'x-a']));
  });

  it('refuses foreign hosts and pages, and lets pages of this machine read', async () => {
    const { port, asked } = await rehearse([
      { url: `${API}/huts`, headers: { 'Access-Control-Allow-Origin': 'https://www.cumbrera.example' }, body: 'x' },
      { url: 'https://www.cumbrera.example/', body: 'page' },
    ]);
    expect((await get(port, '/huts', { Host: 'evil.example' })).status).toBe(403);
    expect((await get(port, '/huts', { Origin: 'https://evil.example' })).status).toBe(403);
    expect((await get(port, '/huts', { Origin: 'http://localhost.evil.example' })).status).toBe(403);
    const crossSite = { 'Sec-Fetch-Site': 'cross-site', 'Sec-Fetch-Mode': 'no-cors', 'Sec-Fetch-Dest': 'script' };
    expect((await get(port, '/huts', crossSite)).status).toBe(403);
    expect((await get(port, '/huts', { ...crossSite, Referer: 'https://evil.example/' })).status).toBe(403);
    expect(asked.map(({ notes }) => notes.fits)).toEqual(Array(5).fill('refused'));
    expect(
      (await get(port, '/huts', { ...crossSite, Referer: `http://www.cumbrera.example.localhost:${port}/` })).status,
    ).toBe(200);
    expect(
      (await get(port, '/huts', { ...crossSite, 'Sec-Fetch-Mode': 'navigate', 'Sec-Fetch-Dest': 'document' })).status,
    ).toBe(200);
    const dev = await get(port, '/huts', { Origin: 'http://localhost:5173' });
    expect(findHeader(dev.headers, 'access-control-allow-origin')).toBe('http://localhost:5173');
    // Code sends the Origin that the browser sent.
    const code = await get(port, '/huts', { Origin: 'https://www.cumbrera.example' });
    expect([code.status, findHeader(code.headers, 'access-control-allow-origin')]).toEqual([
      200,
      'https://www.cumbrera.example',
    ]);
  });

  it('allows a preflight that was not captured, and gives one that was', async () => {
    const preflight = {
      'Access-Control-Request-Method': 'PUT',
      'Access-Control-Request-Headers': 'x-hut',
      Origin: 'http://localhost:5173',
    };
    const { port, asked } = await rehearse([
      { method: 'OPTIONS', url: `${API}/a`, asked: { 'Access-Control-Request-Method': 'PUT' }, status: 403 },
      { url: `${API}/b`, body: '' },
    ]);
    expect((await get(port, '/a', preflight, 'OPTIONS')).status).toBe(403);
    const allowed = await get(port, '/b', preflight, 'OPTIONS');
    expect([allowed.status, findHeader(allowed.headers, 'access-control-allow-headers')]).toEqual([204, 'x-hut']);
    expect(asked.map(({ notes }) => notes.fits)).toEqual(['fits', 'allowed']);
    // The captured one was for another method.
    expect((await get(port, '/a', { ...preflight, 'Access-Control-Request-Method': 'DELETE' }, 'OPTIONS')).status).toBe(
      204,
    );
  });

  it('plays failures: a reset, a silence, a body that breaks off, a body that is not there', async () => {
    const { port, asked } = await rehearse([
      { url: `${API}/reset`, status: 0, error: 'net::ERR_CONNECTION_RESET' },
      { url: `${API}/silence`, status: 0, error: 'net::ERR_TIMED_OUT' },
      { url: `${API}/cut`, body: 'half a', error: 'net::ERR_CONNECTION_RESET' },
      { url: `${API}/lost`, more: {} },
    ]);
    await expect(get(port, '/reset')).rejects.toThrow(/ECONNRESET|hang up/);
    await expect(
      ask({ port, target: '/silence', headers: listed({ Host: `127.0.0.1:${port}` }), patienceMs: 300 }),
    ).rejects.toThrow('no response');
    await expect(get(port, '/cut')).rejects.toThrow(/aborted|ECONNRESET/);
    const lost = await get(port, '/lost');
    expect([lost.status, findHeader(lost.headers, 'trazado-rehearsal')]).toEqual([
      200,
      'the capture does not hold the body',
    ]);
    await pause(100);
    expect(asked.find(({ notes }) => notes.taken === 1)?.notes.remarks).toContain('the client left before the end');
  });

  it('takes as long as captured, as a factor says, or as a change says', async () => {
    const times = async (order: Parameters<typeof rehearseFile>[1]): Promise<number> => {
      const { port } = await rehearse([{ url: `${API}/huts`, body: 'x'.repeat(5000) }], order);
      const begun = performance.now();
      await get(port, '/huts');
      return performance.now() - begun;
    };
    // The capture has a wait of 120 ms and 60 ms of receiving.
    expect(await times({ time: 1 })).toBeGreaterThanOrEqual(175);
    expect(await times({ time: 3 })).toBeGreaterThanOrEqual(535);
    expect(await times({ time: 0, changes: [{ exchange: 0, delayMs: 400 }] })).toBeGreaterThanOrEqual(395);
  });

  it('changes responses as it is told', async () => {
    const { port, asked } = await rehearse([HUTS, { url: `${API}/beds`, body: '[1,2]' }], {
      changes: [
        { exchange: 0, status: 503, headers: [{ name: 'Retry-After', value: '10' }], emptiesList: true },
        { exchange: 1, failure: 'reset' },
      ],
    });
    const changed = await get(port, '/huts');
    expect([changed.status, findHeader(changed.headers, 'retry-after'), textOf(changed)]).toEqual([
      503,
      '10',
      '{"huts":[]}',
    ]);
    await expect(get(port, '/beds')).rejects.toThrow();
    expect(asked[0]?.notes.remarks).toEqual(['changed for this rehearsal']);
  });

  it('bounds what clients do: too long a payload, half a request, garbage, a tunnel', async () => {
    const { port, asked } = await rehearse([{ method: 'POST', url: `${API}/x`, body: 'ok' }]);
    const tooLong = await new Promise<string>((resolve) => {
      const socket = connect(port, '127.0.0.1', () => {
        socket.write(`POST /x HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nContent-Length: 1000000000\r\n\r\n`);
        const piece = Buffer.alloc(1024 * 1024);
        const more = (): void => {
          while (!socket.destroyed && socket.write(piece));
        };
        socket.on('drain', more);
        more();
      });
      let heard = '';
      socket.on('data', (chunk: Buffer) => {
        heard += chunk.toString('latin1');
      });
      socket.on('error', () => undefined);
      socket.on('close', () => resolve(heard));
    });
    expect(asked.at(-1)?.notes).toMatchObject({
      fits: 'refused',
      sentence: 'A payload of more than 64 MB: the connection was closed.',
    });
    expect(tooLong === '' || tooLong.startsWith('HTTP/1.1 413')).toBe(true);
    await speak(port, `POST /x HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nContent-Length: 10\r\n\r\nhalf`, 100);
    await pause(50);
    expect(asked.at(-1)?.notes.sentence).toBe('The client broke off in the middle of its request.');
    expect(await speak(port, 'SSH-2.0-hello\r\n\r\n')).toMatch(/^HTTP\/1.1 400/);
    expect(asked.at(-1)?.notes).toMatchObject({ fits: 'refused', head: 'SSH-2.0-hello\r\n\r\n' });
    expect(
      await speak(port, 'CONNECT api.cumbrera.example:443 HTTP/1.1\r\nHost: api.cumbrera.example\r\n\r\n'),
    ).toMatch(/^HTTP\/1.1 501/);
    // And it goes on answering.
    expect((await get(port, '/x', {}, 'POST')).status).toBe(200);
  });

  it('answers in tunnels what comes in plain HTTP, request after request, and closes on TLS', async () => {
    const { port, asked } = await rehearse([
      { url: 'http://www.cumbrera.example/a', body: 'first' },
      { url: 'http://www.cumbrera.example/b', body: 'second' },
    ]);
    const tunnelled = (after: (string | Buffer)[]) =>
      new Promise<string>((resolve) => {
        let heard = '';
        const left = [...after];
        const socket = connect(port, '127.0.0.1', () =>
          socket.write('CONNECT www.cumbrera.example:80 HTTP/1.1\r\nHost: www.cumbrera.example:80\r\n\r\n'),
        );
        socket.on('data', (chunk: Buffer) => {
          heard += chunk.toString('latin1');
          const next = left.shift();
          if (next !== undefined) socket.write(next);
        });
        socket.on('error', () => undefined).on('close', () => resolve(heard));
      });
    const requestOf = (path: string, last = ''): string =>
      `GET ${path} HTTP/1.1\r\nHost: www.cumbrera.example\r\n${last}\r\n`;
    const heard = await tunnelled([requestOf('/a'), requestOf('/b', 'Connection: close\r\n')]);
    expect(heard).toMatch(/^HTTP\/1\.1 200 Connection Established\r\n\r\nHTTP\/1\.1 200.*first.*second$/s);
    expect(asked.map(({ notes: { taken, head } }) => [taken, head?.split('\r\n', 1)[0]])).toEqual([
      [0, 'GET /a HTTP/1.1'],
      [1, 'GET /b HTTP/1.1'],
    ]);
    expect(await tunnelled([Buffer.from([22, 3, 1, 0, 5, 1, 2, 3, 4, 5])])).toBe(
      'HTTP/1.1 200 Connection Established\r\n\r\n',
    );
    expect(asked).toHaveLength(2);
  });

  it('is asked as a proxy by whole addresses, and by HTTPS with a certificate of its own', async () => {
    const { port, asked } = await rehearse([{ url: 'http://www.cumbrera.example/a', body: 'proxied' }]);
    expect(textOf(await get(port, 'http://www.cumbrera.example/a', { Host: 'www.cumbrera.example' }))).toBe('proxied');
    expect(asked[0]?.notes.taken).toBe(0);
    const secure = await rehearse(
      [{ url: `${API}/a`, body: `${API}/b`, type: 'application/json' }],
      { isSecure: true, rewrites: true },
      { certify },
    );
    const text = await new Promise<string>((resolve, reject) => {
      const host = 'api.cumbrera.example.localhost';
      const options = {
        host: '127.0.0.1',
        port: secure.port,
        path: '/a',
        servername: host,
        ca: secure.certificate,
        headers: { host: `${host}:${secure.port}` },
      };
      requestByTls(options, (response) => {
        let whole = '';
        response.on('data', (chunk: Buffer) => {
          whole += chunk;
        });
        response.on('end', () => resolve(whole));
      })
        .on('error', reject)
        .end();
    });
    expect(text).toBe(`https://api.cumbrera.example.localhost:${secure.port}/b`);
  });

  it('forwards what nothing fits to the real host, and nothing into a private network', async () => {
    const real = createServer((message, response) =>
      response.end(`real ${message.method} ${message.url} ${message.headers.host} ${message.headers['x-hut']}`),
    );
    await new Promise<void>((resolve) => real.listen(0, '127.0.0.1', resolve));
    const at = `127.0.0.1:${(real.address() as AddressInfo).port}`;
    const origin = 'http://api.cumbrera.example';
    const forward = forwarder(new Set(), { toHosts: new Map([['api.cumbrera.example', at]]) });
    const { port, asked } = await rehearse(
      [{ url: `${origin}/known`, body: 'captured' }],
      { forwards: true },
      { forward },
    );
    const own = { Host: `api.cumbrera.example.localhost:${port}`, 'X-Hut': 'alba' };
    expect(textOf(await get(port, '/known', own))).toBe('captured');
    expect(textOf(await get(port, '/other?a=1', own))).toBe('real GET /other?a=1 api.cumbrera.example alba');
    expect(asked.map(({ notes }) => notes.fits)).toEqual(['fits', 'forwarded']);
    const inside = await get(port, '/', { Host: `127.0.0.1.localhost:${port}` });
    expect(inside.status).toBe(502);
    real.close();
  });

  it('plays a socket message by message, behind what the client says, and tells what passed', async () => {
    const messages = [
      { type: 'send', time: 1000, opcode: 1, data: '{"watch":"alba"}' },
      { type: 'receive', time: 1000.05, opcode: 1, data: `{"at":"${API}/beds"}` },
      { type: 'receive', time: 1000.1, opcode: 2, data: 'AAEC' },
    ];
    const socket: MadeEntry = {
      url: 'wss://live.cumbrera.example/beds',
      status: 101,
      headers: { 'Sec-WebSocket-Protocol': 'beds.v1' },
      more: { _webSocketMessages: messages, _resourceType: 'websocket' },
    };
    const { port, asked } = await rehearse([socket, HUTS], { rewrites: true });
    const client = new WebSocket(`ws://127.0.0.1:${port}/beds`, ['beds.v1'], {
      headers: { host: `live.cumbrera.example.localhost:${port}` },
    });
    const heard: string[] = [];
    client.on('message', (data: Buffer, isBinary) => heard.push(isBinary ? data.toString('hex') : data.toString()));
    await new Promise((resolve) => client.once('open', resolve));
    await pause(200);
    expect([client.protocol, heard]).toEqual(['beds.v1', []]);
    client.send('{"watch":"alba"}');
    await expect.poll(() => heard).toEqual([`{"at":"http://api.cumbrera.example.localhost:${port}/beds"}`, '000102']);
    client.close();
    await expect.poll(() => asked.length).toBe(1);
    expect(asked[0]?.notes).toMatchObject({ taken: 0, fits: 'fits' });
    const { _webSocketMessages: passed } = (asked[0] as AskedRecord).entry as unknown as {
      _webSocketMessages: { type: string; data: string }[];
    };
    expect(passed.map(({ type, data }) => `${type} ${data}`)).toEqual([
      'send {"watch":"alba"}',
      `receive {"at":"http://api.cumbrera.example.localhost:${port}/beds"}`,
      'receive AAEC',
    ]);
    // What asks for it without opening one gets no socket.
    expect((await get(port, '/beds')).status).toBe(404);
    const lost = new WebSocket(`ws://127.0.0.1:${port}/nowhere`);
    await expect(new Promise((_, reject) => lost.on('error', reject))).rejects.toThrow('404');
  });

  it('plays an event stream event by event, and leaves it open', async () => {
    const body = 'event: beds\ndata: 1\n\ndata: 2\n\n';
    const stream: MadeEntry = {
      url: `${API}/events`,
      type: 'text/event-stream',
      headers: { 'Content-Type': 'text/event-stream' },
      body,
      error: 'net::ERR_ABORTED',
      more: { _resourceType: 'eventsource' },
    };
    const { port } = await rehearse([stream]);
    const came = await ask({
      port,
      target: '/events',
      headers: listed({ Host: `127.0.0.1:${port}` }),
      enoughBytes: body.length,
    });
    expect([came.status, textOf(came)]).toEqual([200, body]);
  });

  it('serves captures side by side, each at a port of its own', async () => {
    const [one, other] = await Promise.all([
      rehearse([{ url: `${API}/a`, body: 'one' }]),
      rehearse([{ url: `${API}/a`, body: 'other' }]),
    ]);
    expect([textOf(await get(one.port, '/a')), textOf(await get(other.port, '/a'))]).toEqual(['one', 'other']);
    await expect(
      rehearseFile(harOf([{ url: `${API}/a` }])).then(async (third) => {
        open.push(third);
        return third.port;
      }),
    ).resolves.not.toBe(one.port);
  });
});
