import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { runBeside } from '#server/testing/process';

// Sent to a server of the test's own by the program itself, as its user would.

let server: Server;
let folder: string;
let place: string;
let seen: { url: string; headers: Record<string, unknown>; body: string }[] = [];
beforeAll(async () => {
  let count = 0;
  server = createServer((request, response) => {
    const chunks: Buffer[] = [];
    request.on('data', (chunk: Buffer) => chunks.push(chunk));
    request.on('end', () => {
      seen.push({ url: request.url ?? '', headers: request.headers, body: Buffer.concat(chunks).toString() });
      const isKnown = request.headers.authorization === 'Bearer t0k';
      response.writeHead(isKnown ? 200 : 401, { 'content-type': 'application/json', 'x-rule': 'one' });
      const beds = new URL(request.url ?? '', 'http://x').searchParams.get('beds') ?? '3';
      const held = { hold: `h-${7000 + count++}`, beds: Number(beds), mood: count % 2 };
      response.end(JSON.stringify(isKnown ? held : { error: 'who?' }));
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  place = `127.0.0.1:${(server.address() as AddressInfo).port}`;
  folder = mkdtempSync(join(tmpdir(), 'trazado-send-'));
  const entry = {
    startedDateTime: '2026-10-05T08:00:00.000Z',
    time: 20,
    serverIPAddress: '203.0.113.7',
    request: {
      method: 'GET',
      url: 'http://api.cumbrera.example/holds?beds=3',
      httpVersion: 'HTTP/1.1',
      headers: [
        { name: 'Authorization', value: 'Bearer t0k' },
        { name: 'X-Walker', value: 'é' },
      ],
      queryString: [],
      cookies: [],
      headersSize: -1,
      bodySize: 0,
    },
    response: {
      status: 200,
      statusText: 'OK',
      httpVersion: 'HTTP/1.1',
      headers: [
        { name: 'Content-Type', value: 'application/json' },
        { name: 'X-Rule', value: 'one' },
      ],
      cookies: [],
      content: { size: 30, mimeType: 'application/json', text: '{"hold":"h-6001","beds":3,"mood":1}' },
      redirectURL: '',
      headersSize: -1,
      bodySize: 30,
    },
    cache: {},
    timings: { send: 0, wait: 20, receive: 0 },
  };
  const log = { version: '1.2', creator: { name: 'test', version: '1' }, entries: [entry] };
  writeFileSync(join(folder, 'capture.har'), JSON.stringify({ log }));
});
afterAll(() => {
  server.close();
  rmSync(folder, { recursive: true });
});

const trazado = (args: readonly string[], input = ''): ReturnType<typeof runBeside> => {
  seen = [];
  return runBeside(args, input);
};
const send = (...args: string[]): ReturnType<typeof runBeside> =>
  trazado(['send', join(folder, 'capture.har'), '0', '--to-host', `api.cumbrera.example=${place}`, ...args]);

describe('trazado send', () => {
  it('sends what was captured, and says that the response is the same but for what may change by itself', async () => {
    const { status, stdout, stderr } = await send('--times', '2');
    expect(seen.map(({ url }) => url)).toEqual(['/holds?beds=3', '/holds?beds=3']);
    expect(seen[0]?.headers).toMatchObject({ host: 'api.cumbrera.example', authorization: 'Bearer t0k' });
    expect(stdout).toMatch(/^HTTP\/1\.1 200 OK\n[\s\S]*\n\n\{"hold":"h-\d+","beds":3,"mood":[01]\}\n$/);
    expect(stderr).toContain(`Sent to ${place}: `);
    expect(stderr).toMatch(
      /200, as captured\. The same response but for [12] values? that changes? by (?:itself|themselves)\./,
    );
    expect(status).toBe(0);
  });

  it('ends with 1 where it differs, and tells what does', async () => {
    const { status, stderr } = await send('--query', 'beds=5', '--times', '2');
    expect(seen[0]?.url).toBe('/holds?beds=5');
    expect(stderr).toContain('  $.beds: 3 -> 5\n');
    expect(status).toBe(1);
    const refused = await send('--without', 'authorization');
    expect(refused.stderr).toContain('401, not 200 as captured.');
    expect(refused.status).toBe(1);
    const told = JSON.parse((await send('--json', '--header', 'Authorization: no', '--body', 'x=1')).stdout);
    expect(told).toMatchObject({ outcome: 'response', status: 401, verdict: 'differs', address: place });
    expect(seen[0]?.body).toBe('x=1');
  });

  it('reads a command from standard input', async () => {
    const { status, stdout } = await trazado(['send'], `curl 'http://${place}/holds' -H 'Authorization: Bearer t0k'`);
    expect([status, stdout.startsWith('HTTP/1.1 200')]).toEqual([0, true]);
    expect(seen).toHaveLength(1);
  });

  it('is not sent to its own host where --to-host names another by a slip', async () => {
    const { status, stderr } = await trazado([
      'send',
      join(folder, 'capture.har'),
      '0',
      '--to-host',
      `apo.cumbrera.example=${place}`,
    ]);
    expect([status, seen.length]).toEqual([2, 0]);
    expect(stderr).toBe(
      'trazado: --to-host names apo.cumbrera.example, and the request goes to api.cumbrera.example: nothing was sent.\n',
    );
  });

  it('tells a failure in a sentence, and refuses what it does not understand before anything is sent', async () => {
    for (const [args, sentence, code] of [
      [['--to-host', 'api.cumbrera.example=127.0.0.1:1'], 'Nothing listens there', 1],
      [['--times', '0'], '--times takes a number from 1 to 20.', 2],
      [['--without', 'x-none'], 'The request has no header x-none.', 2],
      [['--header', 'none'], '"none" is no header: write "Name: value".', 2],
      [['--to-host', 'none'], 'write HOST=ADDRESS', 2],
      ...['', 'http://127.0.0.1:9', '127.0.0.1:9/x', '127.0.0.1:', '127.0.0.1:99999', '127.0.0.1:0', 'a b', '::1'].map(
        (to) => [['--to-host', `api.cumbrera.example=${to}`], 'names no place for a host', 2] as const,
      ),
      [['--body', '@/no/such/file'], '--body @/no/such/file: there is no such file.', 2],
      [['--time-limit', 'soon'], '--time-limit takes a number of seconds.', 2],
    ] as const) {
      const { status, stdout, stderr } = await send(...args);
      expect([status, stdout, seen.length], stderr).toEqual([code, '', 0]);
      expect(stderr).toContain(sentence);
    }
  });

  it('sends nothing in place of what it does not have', async () => {
    const entry = {
      request: { method: 'POST', url: `http://${place}/holds`, headers: [], bodySize: 310 },
      response: { status: 200, headers: [], content: {} },
    };
    writeFileSync(join(folder, 'lacks.har'), JSON.stringify({ log: { entries: [entry] } }));
    const lacks = await trazado(['send', join(folder, 'lacks.har'), '0']);
    expect([lacks.status, seen.length, lacks.stderr]).toEqual([2, 0, expect.stringContaining('--body @FILE')]);
    for (const [command, sentence] of [
      [`curl http://${place}/ -d @holds.json`, 'The payload is in the file holds.json'],
      [`curl http://${place}/ -H "Authorization: Bearer $NO_SUCH_TOKEN"`, 'NO_SUCH_TOKEN is read from the environment'],
    ] as const) {
      const { status, stderr } = await trazado(['send'], command);
      expect([status, seen.length, stderr]).toEqual([2, 0, expect.stringContaining(sentence)]);
    }
  });

  it('asks before it sends into a private network what was captured from a public one', async () => {
    const file = join(folder, 'moved.har');
    const har = {
      log: {
        entries: [
          { request: { method: 'GET', url: `http://${place}/holds`, headers: [] }, serverIPAddress: '203.0.113.7' },
        ],
      },
    };
    writeFileSync(file, JSON.stringify(har));
    const { status, stderr } = await trazado(['send', file, '0']);
    expect([status, seen.length]).toEqual([2, 0]);
    expect(stderr).toContain('it was 203.0.113.7 in the capture. Nothing was sent: add --allow-private');
    await trazado(['send', file, '0', '--allow-private']);
    expect(seen).toHaveLength(1);
  });
});
