import { randomUUID } from 'node:crypto';
import { gzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CookieTrail } from '#core/content';
import type { ExchangeDossier, ExchangesAnswer, ImportResult } from '#core/wire';
import { type RunningApp, startServer } from './testing/process';

/** A zstd frame of one raw block (RFC 8878 3.1.1), which needs no compressor to write. */
function zstdFrame(text: string): Buffer {
  const bytes = Buffer.from(text);
  const header = (bytes.length << 3) | 1;
  return Buffer.concat([
    Buffer.from([0x28, 0xb5, 0x2f, 0xfd, 0x20, bytes.length]),
    Buffer.from([header & 0xff, (header >> 8) & 0xff, header >> 16]),
    bytes,
  ]);
}

const packedAs = (coding: string, bytes: Buffer) => ({
  headers: [{ name: 'content-encoding', value: coding }],
  content: { mimeType: 'application/json', encoding: 'base64', text: bytes.toString('base64') },
});
const entry = (response: Record<string, unknown>, request: Record<string, unknown> = {}, seconds = 0) => ({
  startedDateTime: new Date(Date.UTC(2026, 9, 3, 9, 0, seconds)).toISOString(),
  request: { method: 'GET', url: 'https://a.example/huts?page=1', headers: [], ...request },
  response: { status: 200, headers: [], content: {}, ...response },
});
const cookie = (value: string) => ({ headers: [{ name: 'Cookie', value }] });

const ENTRIES = [
  entry(packedAs('zstd', zstdFrame('{"page":1}'))),
  entry(packedAs('zstd', Buffer.concat([zstdFrame('{"page":1}').subarray(0, 8), Buffer.from('broken')])), {}, 1),
  entry(packedAs('gzip', gzipSync(Buffer.alloc(300 * 1024 * 1024))), {}, 2),
  entry(
    {
      headers: [{ name: 'Set-Cookie', value: 'walker=w1; Path=/' }],
      content: { mimeType: 'text/html; charset=utf-8', text: '<h1>Alba</h1><script>alert(1)</script>' },
    },
    {},
    3,
  ),
  entry({ content: { mimeType: 'application/json', text: '{"page":2}' } }, cookie('walker=w1'), 4),
  entry({ status: 404, content: { mimeType: 'audio/wav', text: 'RIFF' } }, cookie('walker=w1'), 5),
];

let app: RunningApp;
let at: string;
beforeAll(async () => {
  app = await startServer();
  const query = new URLSearchParams({ name: 'bodies', importId: randomUUID() });
  const body = JSON.stringify({ log: { version: '1.2', entries: ENTRIES } });
  const answer = await fetch(`${app.url}api/captures?${query}`, { method: 'POST', body });
  const [result] = (await answer.json()) as ImportResult[];
  if (result?.type !== 'imported') throw new Error('the capture did not come in');
  at = `${app.url}api/captures/${result.id}`;
});
afterAll(() => app.stop());

const dossierOf = async (place: number) => (await (await fetch(`${at}/exchanges/${place}`)).json()) as ExchangeDossier;

describe('a body', () => {
  it('packed with zstd is unpacked', async () => {
    expect((await dossierOf(0)).body).toMatchObject({ text: '{"page":1}', unpackedFrom: 'zstd', shape: 'json' });
  });

  it('that is damaged stays as it was recorded', async () => {
    const { body } = await dossierOf(1);
    expect([body.unpackedFrom, body.shape]).toEqual([undefined, 'binary']);
  });

  it('that would unpack to more than can be borne stays packed', async () => {
    const { body } = await dossierOf(2);
    expect(body.unpackedFrom).toBeUndefined();
    expect(body.byteLength).toBeLessThan(1024 * 1024);
  });

  it('of a page is a picture only where it is asked for, and then in a sandbox without script or network', async () => {
    const plain = await fetch(`${at}/exchanges/3/body`);
    expect(plain.headers.get('content-type')).toBe('application/octet-stream');
    const picture = await fetch(`${at}/exchanges/3/body?as=picture`);
    expect(picture.headers.get('content-type')).toBe('text/html; charset=utf-8');
    const policy = picture.headers.get('content-security-policy') ?? '';
    expect(policy).toContain("sandbox; default-src 'none'");
    expect(policy).not.toMatch(/script|allow-/);
    expect(picture.headers.get('x-content-type-options')).toBe('nosniff');
  });

  it('that is no page is none when it is asked for as a picture', async () => {
    const picture = await fetch(`${at}/exchanges/4/body?as=picture`);
    expect(picture.headers.get('content-type')).toBe('application/octet-stream');
    expect((await fetch(`${at}/exchanges/4/body?as=script`)).status).toBe(400);
  });

  it('that can be played has its own type', async () => {
    expect((await fetch(`${at}/exchanges/5/body`)).headers.get('content-type')).toBe('audio/wav');
  });
});

describe('two exchanges', () => {
  const compare = (here: number, there: number | undefined): Promise<Response> => {
    const capture = at.split('/').at(-1);
    return fetch(new URL('/api/compare/exchanges', at), {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ here: { capture, place: here }, there: { capture, place: there } }),
    });
  };

  it('are compared with each other with their bodies unpacked', async () => {
    const { comparison } = (await (await compare(0, 4)).json()) as ExchangesAnswer;
    expect(comparison.differences).toContainEqual({ part: 'body', name: '$.page', here: '1', there: '2' });
    expect(comparison.differences).toContainEqual({ part: 'request header', name: 'cookie', there: 'walker=w1' });
  });

  it.each([
    [0, undefined],
    [0, 99],
    [-1, 0],
  ])('are not with %s and %s, which is said', async (here, there) => {
    const answer = await compare(here, there);
    expect([400, 404]).toContain(answer.status);
    expect(((await answer.json()) as { sentence: string }).sentence).not.toBe('');
  });
});

it('follows cookies through the capture', async () => {
  const trails = (await (await fetch(`${at}/cookies?from=3&name=walker&name=none`)).json()) as CookieTrail[];
  expect(trails).toMatchObject([
    { name: 'walker', steps: [{ index: 3, how: 'set', value: 'w1' }], sentLater: 2 },
    { name: 'none', steps: [], sentLater: 0 },
  ]);
});
