import { execFile } from 'node:child_process';
import { createSecureServer } from 'node:http2';
import { connect as connectPlain, createServer, type Server, type Socket } from 'node:net';
import { createServer as createTlsServer } from 'node:tls';
import { promisify } from 'node:util';
import { gzipSync } from 'node:zlib';
import { generate } from 'selfsigned';
import { afterEach, describe, expect, it } from 'vitest';
import { readBody } from '#core/content';
import { type Draft, EMPTY_DRAFT, readBack } from '#core/convert';
import { describeNeeding } from '../../core/convert/testing/tools';
import { inflateWithZlib } from '../inflate';
import { SEND_BOUNDS, type SendBounds } from './bounds';
import { asResponse } from './held';
import { wireRequest } from './message';
import { remarksOn } from './remarks';
import { type Sent, sendOnce } from './send';

const servers: Server[] = [];
afterEach(() => {
  for (const server of servers.splice(0)) server.close();
});

/** A server that gets the bytes of a connection, and does with it what a test wants. */
async function serve(work: (socket: Socket, bytes: () => Buffer) => void): Promise<number> {
  const server = createServer((socket) => {
    const chunks: Buffer[] = [];
    socket.on('error', () => undefined);
    socket.on('data', (chunk) => {
      chunks.push(chunk);
      work(socket, () => Buffer.concat(chunks));
    });
  });
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return (server.address() as { port: number }).port;
}

const respond = (text: string) => (socket: Socket) => void socket.end(text);

async function send(port: number, change: Partial<Draft> = {}, bounds: Partial<SendBounds> = {}): Promise<Sent> {
  const wire = wireRequest({ ...EMPTY_DRAFT, method: 'GET', url: `http://127.0.0.1:${port}/huts`, ...change });
  if (typeof wire === 'string') throw new Error(wire);
  return sendOnce(wire, { ...SEND_BOUNDS, ...bounds });
}
const own = (name: string, value: string) => ({ name, value, role: 'own', kept: true, reason: '' }) as const;

describe('what goes on the wire', () => {
  it('is what the draft says, byte for byte: target, names, order, values and payload', async () => {
    let seen: Buffer = Buffer.alloc(0);
    const port = await serve((socket, bytes) => {
      seen = bytes();
      if (seen.includes('\r\n\r\n') && seen.toString('latin1').endsWith('é"}'.replace('é', '\u00c3\u00a9')))
        socket.end('HTTP/1.1 200 OK\r\nContent-Length: 0\r\n\r\n');
    });
    const sent = await send(port, {
      method: 'PATCH',
      url: `http://127.0.0.1:${port}/a/../b//c?x=%2f&y=[1]&z='"&q=%zz`,
      headers: [own('X-b', '2'), own('x-A', 'ü'), own('X-b', '3'), own('Cookie', 'a=1; b="2"'), own('X-Empty', '')],
      payload: { type: 'text', text: '{"a":"é"}' },
    });
    expect(sent.outcome).toMatchObject({ type: 'response', status: 200 });
    const lines = seen.toString('utf8').split('\r\n');
    expect(lines[0]).toBe(`PATCH /a/../b//c?x=%2f&y=[1]&z='"&q=%zz HTTP/1.1`);
    const added = lines.filter((line) => /^(?:Host|Content-Length|Connection):/.test(line));
    expect(added).toEqual([`Host: 127.0.0.1:${port}`, 'Content-Length: 10', 'Connection: close']);
    expect(lines.slice(1, -2).filter((line) => !added.includes(line))).toEqual([
      'X-b: 2',
      'x-A: ü',
      'X-b: 3',
      'Cookie: a=1; b="2"',
      'X-Empty: ',
    ]);
    expect(lines.at(-1)).toBe('{"a":"é"}');
  });

  it('goes where its host is sent to, under its own name', async () => {
    let head = '';
    const port = await serve((socket, bytes) => {
      head = bytes().toString();
      socket.end('HTTP/1.1 204 No Content\r\n\r\n');
    });
    const bounds = { toHosts: new Map([['api.cumbrera.example', `127.0.0.1:${port}`]]) };
    const sent = await send(port, { url: 'http://api.cumbrera.example/huts' }, bounds);
    expect(sent).toMatchObject({ outcome: { status: 204 }, address: `127.0.0.1:${port}` });
    expect(head).toContain('Host: api.cumbrera.example\r\n');
  });
});

describe('what comes back', () => {
  it('is kept as it came, with its times apart', async () => {
    const port = await serve((socket) => {
      socket.write('HTTP/1.1 103 Early Hints\r\nLink: </a>\r\n\r\nHTTP/1.1 201 Made\r\nX-a: 1\r\nx-A: 2\r\n');
      setTimeout(() => socket.end('Transfer-Encoding: chunked\r\n\r\n3\r\nabc\r\n0\r\nTrailer: t\r\n\r\n'), 60);
    });
    const { outcome, phases, address } = await send(port);
    expect(outcome).toMatchObject({
      type: 'response',
      status: 201,
      statusText: 'Made',
      protocol: 'HTTP/1.1',
      isCut: false,
    });
    if (outcome.type === 'none') throw new Error('no response');
    expect(outcome.headers.slice(0, 2)).toEqual([
      { name: 'X-a', value: '1' },
      { name: 'x-A', value: '2' },
    ]);
    expect(Buffer.from(outcome.body).toString()).toBe('abc');
    expect(address).toBe(`127.0.0.1:${port}`);
    expect(phases.waitMs).toBeGreaterThan(40);
    expect(phases.connectMs).toBeGreaterThanOrEqual(0);
    expect(phases.dnsMs).toBeUndefined();
    expect(phases.tlsMs).toBeUndefined();
  });

  it('is the head of another protocol that is agreed on', async () => {
    const port = await serve(
      respond('HTTP/1.1 101 Switching Protocols\r\nUpgrade: websocket\r\nConnection: Upgrade\r\n\r\nxx'),
    );
    const { outcome } = await send(port, { headers: [own('Upgrade', 'websocket'), own('Connection', 'Upgrade')] });
    expect(outcome).toMatchObject({ type: 'response', status: 101, broke: undefined });
  });

  it('is told where it was cancelled before', async () => {
    const port = await serve(respond('HTTP/1.1 204 No Content\r\n\r\n'));
    expect((await send(port, {}, { signal: AbortSignal.abort() })).outcome).toMatchObject({ reason: 'cancelled' });
  });

  it('follows no redirect', async () => {
    let count = 0;
    const port = await serve((socket) => {
      count++;
      socket.end('HTTP/1.1 302 Found\r\nLocation: /huts\r\nContent-Length: 0\r\n\r\n');
    });
    expect((await send(port)).outcome).toMatchObject({ status: 302 });
    expect(count).toBe(1);
  });

  it.each([
    ['nothing that is HTTP', respond('SSH-2.0-x\r\n'), 'invalid-http', 'What came back is not HTTP.'],
    ['a response without a head', respond('<html>old</html>'), 'invalid-http', 'What came back is not HTTP.'],
    [
      'a connection that is broken off',
      (socket: Socket) => void socket.destroy(),
      'reset',
      'The server broke the connection off.',
    ],
    [
      'headers without an end',
      (socket: Socket) => void socket.write(`HTTP/1.1 200 OK\r\nX: ${'x'.repeat(300_000)}`),
      'invalid-http',
      'The response’s headers are larger than 256 kB.',
    ],
    ['nothing, for ever', () => undefined, 'timed-out', 'No whole response came within 0.3 s.'],
  ])('is told where it is %s', async (_, work, reason, sentence) => {
    const port = await serve(work);
    const { outcome } = await send(port, {}, { timeLimitMs: 300 });
    expect(outcome).toMatchObject({ type: 'none', reason, sentence });
  });

  it.each([
    ['half a body', respond('HTTP/1.1 200 OK\r\nContent-Length: 10\r\n\r\nhalf'), 'half', 'reset'],
    [
      'a body that never ends',
      (socket: Socket) => void socket.write('HTTP/1.1 200 OK\r\n\r\nendless'),
      'endless',
      'timed-out',
    ],
  ])('keeps what there is of %s', async (_, work, text, reason) => {
    const { outcome } = await send(await serve(work), {}, { timeLimitMs: 400 });
    if (outcome.type === 'none') throw new Error(outcome.sentence);
    expect([Buffer.from(outcome.body).toString(), outcome.isCut, outcome.broke?.reason]).toEqual([text, true, reason]);
  });

  it.each([
    ['a length that is too short', 'HTTP/1.1 200 OK\r\nContent-Length: 3\r\n\r\nabcdefgh', 'abc'],
    ['a body where there is none', 'HTTP/1.1 204 No Content\r\n\r\nsurprise', ''],
  ])('is whole in spite of what comes behind it: %s', async (_, bytes, text) => {
    const { outcome } = await send(await serve(respond(bytes)));
    if (outcome.type === 'none') throw new Error(outcome.sentence);
    expect([Buffer.from(outcome.body).toString(), outcome.isCut, outcome.broke]).toEqual([text, false, undefined]);
    expect(remarksOn(outcome)).toEqual([
      'More came behind the response than its status and headers announce: that was left.',
    ]);
  });

  it.each([
    ['a folded header (RFC 9112 5.2)', 'X-A: one\r\n two', 'one two'],
    ['an odd byte in a value', 'X-A: a\x01b', 'a\x01b'],
  ])('is taken with what strict readers refuse: %s', async (_, line, value) => {
    const { outcome } = await send(await serve(respond(`HTTP/1.1 200 OK\r\n${line}\r\nContent-Length: 2\r\n\r\nok`)));
    expect(outcome).toMatchObject({ type: 'response', headers: [{ name: 'X-A', value }, { name: 'Content-Length' }] });
  });

  it('is told why it breaks the rules of HTTP, where it is HTTP', async () => {
    const bad = respond('HTTP/1.1 200 OK\r\nTransfer-Encoding: chunked\r\n\r\nzz\r\nhello\r\n0\r\n\r\n');
    const { outcome } = await send(await serve(bad));
    if (outcome.type === 'none') throw new Error(outcome.sentence);
    expect(remarksOn(outcome)).toEqual(['What came back breaks the rules of HTTP: invalid character in chunk size.']);
  });

  it.each([
    ['cut', 'gzip', gzipSync('text '.repeat(400)).subarray(0, 30), /^The body is said to be in gzip, and cannot/],
    ['something else', 'br', Buffer.from('hello'), /^The body is said to be in br, and cannot/],
    [
      'in a coding of its own',
      'x-strange',
      Buffer.from('hello'),
      /^The body is in x-strange, which is not unpacked here/,
    ],
    ['packed as it says', 'gzip', gzipSync('text'), undefined],
    ['not packed, as it says', 'identity', Buffer.from('text'), undefined],
  ])('says what its body still is: %s', async (_, coding, body, remark) => {
    const head = `HTTP/1.1 200 OK\r\nContent-Type: text/plain\r\nContent-Encoding: ${coding}\r\nContent-Length: ${body.length}\r\n\r\n`;
    const { outcome } = await send(await serve((socket) => void socket.end(Buffer.concat([Buffer.from(head), body]))));
    if (outcome.type === 'none') throw new Error(outcome.sentence);
    expect(remarksOn(outcome)).toEqual(remark === undefined ? [] : [expect.stringMatching(remark)]);
    // What is still packed is no text, whatever its type says.
    expect(readBody(asResponse(outcome), inflateWithZlib).kind).toBe(_ === 'cut' ? 'binary' : 'text');
  });

  it('is cut where it is more than is kept, and says so', async () => {
    const port = await serve(respond(`HTTP/1.1 200 OK\r\n\r\n${'x'.repeat(5000)}`));
    const { outcome } = await send(port, {}, { mostBytes: 1000 });
    if (outcome.type === 'none') throw new Error(outcome.sentence);
    expect([outcome.body.length, outcome.isCut, outcome.broke]).toEqual([1000, true, undefined]);
  });

  it('is told where nothing listens, where a name is none, and where it was cancelled', async () => {
    const port = await serve(() => undefined);
    const gone = await serve(() => undefined);
    servers.at(-1)?.close();
    expect((await send(gone)).outcome).toMatchObject({ reason: 'refused' });
    const unknown = await send(port, { url: 'http://no-such-host.invalid/' });
    expect(['name-not-found', 'name-timed-out']).toContain((unknown.outcome as { reason: string }).reason);
    const control = new AbortController();
    setTimeout(() => control.abort(), 50);
    expect((await send(port, {}, { signal: control.signal })).outcome).toMatchObject({ reason: 'cancelled' });
  });

  it('names what is wrong with a certificate, and takes it where that is wanted', async () => {
    const { private: key, cert } = await generate([{ name: 'commonName', value: 'localhost' }], { keySize: 2048 });
    const server = createTlsServer({ key, cert }, (socket) => {
      socket.on('error', () => undefined);
      socket.on('data', () => socket.end('HTTP/1.1 200 OK\r\nContent-Length: 2\r\n\r\nok'));
    });
    server.on('tlsClientError', () => undefined);
    servers.push(server);
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const { port } = server.address() as { port: number };
    const url = `https://localhost:${port}/`;
    expect((await send(port, { url })).outcome).toMatchObject({ type: 'none', reason: 'certificate-authority' });
    const taken = await send(port, { url }, { ignoresCertificate: true });
    expect(taken.outcome).toMatchObject({ type: 'response', status: 200 });
    expect(taken.phases.tlsMs).toBeGreaterThan(0);
  });
});

describe('what Node would write otherwise', () => {
  it('goes out as it is: methods in small letters, methods that it does not know, bells', async () => {
    let head = '';
    const port = await serve((socket, bytes) => {
      head = bytes().toString('latin1');
      socket.end('HTTP/1.1 204 No Content\r\n\r\n');
    });
    for (const method of ['get', 'Purge', 'M-SEARCH']) {
      await send(port, { method, headers: [own('X-Bell', 'a\u0007b')] });
      expect(head).toBe(
        `${method} /huts HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nX-Bell: a\u0007b\r\nConnection: close\r\n\r\n`,
      );
    }
  });

  it('lets no value of a header become a header', () => {
    const wire = wireRequest({ ...EMPTY_DRAFT, url: 'http://a.example/', headers: [own('X-A', 'b\r\nX-Evil: c')] });
    const written = typeof wire === 'string' ? wire : wire.headers.map((header) => header.join(': ')).join('\n');
    expect(written).not.toMatch(/^X-Evil/m);
  });
});

describeNeeding(['curl'])('a host beyond ASCII', () => {
  it.each(['bücher.example', 'BÜCHER.example', '日本.example', 'straße.example', 'b%C3%BCcher.example'])(
    '%s goes out as curl has it',
    async (host) => {
      let head = '';
      const port = await serve((socket, bytes) => {
        head = bytes().toString('latin1');
        if (head.includes('\r\n\r\n')) socket.end('HTTP/1.1 204 No Content\r\n\r\n');
      });
      await promisify(execFile)('curl', ['-s', '--connect-to', `::127.0.0.1:${port}`, `http://${host}/`], {
        env: { ...process.env, LC_ALL: 'C.UTF-8' },
      });
      const sent = ['Host', /^Host: (.*)\r$/m.exec(head)?.[1]];
      // As it is read from the very command, too.
      const [read = EMPTY_DRAFT] = readBack(`curl http://${host}/`, 'curl-sh').drafts;
      for (const one of [{ ...EMPTY_DRAFT, url: `http://${host}/` }, read]) {
        const wire = wireRequest(one);
        expect(typeof wire === 'string' ? wire : wire.headers).toContainEqual(sent);
      }
    },
  );
});

it('a name below localhost is this computer', async () => {
  const port = await serve(respond('HTTP/1.1 204 No Content\r\n\r\n'));
  const { outcome } = await send(port, { url: `http://huts.Localhost:${port}/` });
  expect(outcome).toMatchObject({ type: 'response', status: 204 });
});

describe('an address that cannot be asked', () => {
  it.each(['ftp://a.example/', 'http:///x', 'data:,x', 'http://a.example:99999/', 'http://a b/', 'http://a{b}/', ''])(
    '%j is told in a sentence',
    (url) => {
      expect(wireRequest({ ...EMPTY_DRAFT, url })).toMatch(/\.$/);
    },
  );
});

describe('other ways', () => {
  const certified = async () => generate([{ name: 'commonName', value: 'localhost' }], { keySize: 2048 });

  it('goes over HTTP/2 where that is wanted and the server takes it, else over HTTP/1.1', async () => {
    const { private: key, cert } = await certified();
    const seen: [string, string, Record<string, unknown>, string][] = [];
    const server = createSecureServer({ key, cert, allowHTTP1: true }, (request, response) => {
      const chunks: Buffer[] = [];
      request.on('data', (chunk: Buffer) => chunks.push(chunk));
      request.on('end', () => {
        seen.push([
          request.httpVersion,
          `${request.method} ${request.url}`,
          request.headers,
          Buffer.concat(chunks).toString(),
        ]);
        response.setHeader('X-Two', ['a', 'b']);
        response.writeHead(201);
        response.end('over it');
      });
    });
    server.on('sessionError', () => undefined);
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const { port } = server.address() as { port: number };
    const change = {
      method: 'POST',
      url: `https://localhost:${port}/huts?x=%20`,
      headers: [own('X-A', '1'), own('x-a', '2'), own('Connection', 'keep-alive')],
      payload: { type: 'text', text: 'é' } as const,
    };
    for (const wantsHttp2 of [true, false]) {
      const { outcome, phases } = await send(port, change, { ignoresCertificate: true, wantsHttp2 });
      expect(outcome).toMatchObject({ status: 201, protocol: wantsHttp2 ? 'HTTP/2' : 'HTTP/1.1' });
      if (outcome.type === 'none') throw new Error(outcome.sentence);
      expect(Buffer.from(outcome.body).toString()).toBe('over it');
      expect(outcome.headers.filter(({ name }) => name.toLowerCase() === 'x-two').map(({ value }) => value)).toEqual([
        'a',
        'b',
      ]);
      expect(phases.waitMs).toBeGreaterThanOrEqual(0);
    }
    server.close();
    expect(seen.map(([version, line, headers, body]) => [version, line, headers['x-a'], body])).toEqual([
      ['2.0', 'POST /huts?x=%20', '1, 2', 'é'],
      ['1.1', 'POST /huts?x=%20', '1, 2', 'é'],
    ]);
    expect(seen[0]?.[2]).not.toHaveProperty('connection');
  });

  it('goes through a proxy: asked for the whole address, or for a way to it', async () => {
    let head = '';
    const plain = await serve((socket, bytes) => {
      head = bytes().toString();
      socket.end('HTTP/1.1 204 No Content\r\n\r\n');
    });
    const proxy = { host: '127.0.0.1', port: plain };
    await send(plain, { url: 'http://api.cumbrera.example/huts' }, { proxy });
    expect(head).toMatch(/^GET http:\/\/api\.cumbrera\.example\/huts HTTP\/1\.1\r\nHost: api\.cumbrera\.example\r\n/);

    const { private: key, cert } = await certified();
    const site = createTlsServer({ key, cert }, (socket) => {
      socket.on('error', () => undefined);
      socket.on('data', () => socket.end('HTTP/1.1 200 OK\r\nContent-Length: 2\r\n\r\nok'));
    });
    await new Promise<void>((resolve) => site.listen(0, '127.0.0.1', resolve));
    const { port } = site.address() as { port: number };
    let asked = '';
    const way = await serve((socket, bytes) => {
      if (asked !== '') return;
      asked = bytes().toString();
      socket.removeAllListeners('data');
      const on = connectPlain(port, '127.0.0.1', () => {
        socket.write('HTTP/1.1 200 Connected\r\n\r\n');
        socket.pipe(on).pipe(socket);
      });
      on.on('error', () => socket.destroy());
    });
    const through = { proxy: { host: '127.0.0.1', port: way }, ignoresCertificate: true };
    const sent = await send(way, { url: 'https://api.cumbrera.example/huts' }, through);
    site.close();
    expect(sent.outcome).toMatchObject({ type: 'response', status: 200 });
    expect(asked).toMatch(/^CONNECT api\.cumbrera\.example:443 HTTP\/1\.1\r\n/);
    const closed = await serve(respond('HTTP/1.1 407 Proxy Authentication Required\r\nContent-Length: 0\r\n\r\n'));
    const refused = await send(closed, { url: 'https://a.example/' }, { proxy: { host: '127.0.0.1', port: closed } });
    expect(refused.outcome).toMatchObject({ reason: 'proxy', sentence: 'The proxy answered 407, and led no further.' });
  });
});
