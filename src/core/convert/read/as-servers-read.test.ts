import { createServer, type Server } from 'node:http';
import { type AddressInfo, connect } from 'node:net';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { payloadBytes } from '../index';
import { readHttpMessages } from './http-message';

// What is read from messages is what a server of Node's own parser reads from the same bytes.

interface Seen {
  readonly line: string;
  readonly headers: readonly string[];
  readonly body: string;
}

let server: Server;
let seen: Seen[] = [];
let tellSeen = (): void => undefined;
beforeAll(async () => {
  server = createServer((request, response) => {
    const chunks: Buffer[] = [];
    request.on('data', (chunk) => chunks.push(chunk));
    request.on('end', () => {
      const { method, url, rawHeaders } = request;
      const lines = rawHeaders.flatMap((name, at) => (at % 2 === 0 ? `${name}: ${rawHeaders[at + 1]}` : []));
      seen.push({
        line: `${method} ${url}`,
        headers: lines.filter((line) => !/^(?:host|content-length|transfer-encoding):/i.test(line)),
        body: Buffer.concat(chunks).toString(),
      });
      response.end();
      tellSeen();
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
});
afterAll(() => {
  server.close();
});

const VALUES = ['1', 'a, b', '', 'a: b', 'text/plain', '  padded  ', 'a;b="c"', 'Bearer x.y.z'];
const BODIES = [
  ...['', 'a=1&b=2', '{"hut":"ü"}', 'GET / HTTP/1.1', '0\r\n\r\n', '\r\n', 'a\n\nb'],
  'first\r\n\r\nPOST /beds HTTP/1.1\r\nHost: b.example\r\n\r\n',
];
const message = fc.record({
  method: fc.constantFrom('GET', 'POST', 'PUT', 'DELETE', 'PATCH'),
  target: fc.constantFrom('/', '/huts?page=2&q', '/a%20b', '/a//b/../c', '/?to=http://y.example/z', '/a;b=c'),
  headers: fc.array(
    fc.tuple(fc.constantFrom('X-A', 'x-b', 'Accept', 'Cookie', 'Content-Type'), fc.constantFrom(...VALUES)),
    { maxLength: 4 },
  ),
  body: fc.constantFrom(...BODIES),
  isChunked: fc.boolean(),
  trailer: fc.constantFrom('', 'X-T: 1\r\n', 'X-T: 1\r\nX-U: 2\r\n'),
});

it('reads messages one behind the other as a server does, framed by length or in chunks', async () => {
  const ask = fc.asyncProperty(fc.array(message, { minLength: 1, maxLength: 3 }), async (messages) => {
    const text = messages
      .map(({ method, target, headers, body, isChunked, trailer }) => {
        const bytes = Buffer.byteLength(body);
        const chunk = bytes === 0 ? '' : `${bytes.toString(16)};x=y\r\n${body}\r\n`;
        const framing = isChunked ? 'Transfer-Encoding: chunked' : `Content-Length: ${bytes}`;
        const lines = headers.map(([name, value]) => `${name}: ${value}`);
        const head = [`${method} ${target} HTTP/1.1`, 'Host: a.example', ...lines, framing].join('\r\n');
        return `${head}\r\n\r\n${isChunked ? `${chunk}0\r\n${trailer}\r\n` : body}`;
      })
      .join('');
    seen = [];
    await new Promise<void>((resolve) => {
      const socket = connect((server.address() as AddressInfo).port, '127.0.0.1', () => socket.write(text));
      tellSeen = () => {
        if (seen.length < messages.length) return;
        socket.destroy();
        resolve();
      };
    });
    const read = readHttpMessages(text).map(({ method, url, headers, payload }) => ({
      line: `${method} ${url.replace('https://a.example', '')}`,
      headers: headers.map(({ name, value }) => `${name}: ${value}`),
      body: Buffer.from(payloadBytes(payload) ?? []).toString(),
    }));
    expect(read).toEqual(seen);
  });
  await fc.assert(ask, { numRuns: 200, seed: 11 });
});
