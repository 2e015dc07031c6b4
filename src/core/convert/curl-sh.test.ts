import { execFile } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { bytesFromText } from '../content';
import { type JsonObject, normaliseEntry } from '../har';
import { type Draft, draftFromExchange, findTarget, maskCredentials } from './index';
import { quotePosix } from './quoting/posix';
import { type Arrived, type Echo, startEcho } from './testing/echo';

const run = promisify(execFile);
const render = (draft: Draft) => {
  const target = findTarget('curl-sh');
  if (target === undefined) throw new Error('no target');
  return target.render(draft);
};

const own = (name: string, value: string): Draft['headers'][number] => ({
  name,
  value,
  role: 'own',
  kept: true,
  reason: '',
});

const draftOf = (rest: Partial<Draft>): Draft => ({
  method: 'GET',
  url: 'http://127.0.0.1/',
  headers: [],
  payload: { type: 'none' },
  wantsCompressed: false,
  notes: [],
  ...rest,
});

const payloadOf = (bytes: Uint8Array): Draft['payload'] => ({ type: 'bytes', bytes });

let echo: Echo;
let folder: string;
let scripts: string;
beforeAll(async () => {
  echo = await startEcho();
  folder = mkdtempSync(join(tmpdir(), 'trazado-curl-'));
  scripts = mkdtempSync(join(tmpdir(), 'trazado-scripts-'));
});
afterAll(async () => {
  await echo.close();
  rmSync(folder, { recursive: true });
  rmSync(scripts, { recursive: true });
});

/** Runs the command in a real shell with the real curl, in an empty folder, and returns what reached the wire. */
async function send(draft: Draft): Promise<Arrived> {
  const { text } = render(draft);
  const script = join(scripts, 'command.sh');
  writeFileSync(script, text);
  await run('sh', [script], { cwd: folder, env: { PATH: process.env['PATH'], HOME: folder } });
  const arrived = echo.take();
  expect(arrived).toHaveLength(1);
  // Nothing else may have run: the folder is as empty as it was.
  expect(readdirSync(folder)).toEqual([]);
  return arrived[0] as Arrived;
}

/** The law of conversion: same method, same target, same kept headers, same payload bytes. */
async function expectSame(draft: Draft): Promise<void> {
  const { requestLine, headers, body } = await send(draft);
  const target = draft.url.replace(/^http:\/\/[^/]+/, '');
  expect(requestLine).toBe(`${draft.method} ${target} HTTP/1.1`);
  const wanted = draft.headers.filter(({ kept }) => kept).map(({ name, value }) => ({ name, value: value.trim() }));
  const computed = new Set(['host', 'content-length']);
  expect(headers.filter(({ name }) => !computed.has(name.toLowerCase()))).toEqual(wanted);
  expect(body.equals(Buffer.from(draft.payload.type === 'bytes' ? draft.payload.bytes : []))).toBe(true);
}

const urlOf = (target: string): string => `http://127.0.0.1:${echo.port}${target}`;
const NASTY = `'"\`$(touch canary)$HOME\\ !#&;|<>*?[]{}~%^ ü€😀`;

describe('curl for a POSIX shell, run by a real shell and the real curl', () => {
  it.each([
    ['every quote and expansion in a header', { headers: [own('X-Wish', NASTY), own('Cookie', `a="${NASTY}"`)] }],
    ['an empty header and one of blanks', { headers: [own('X-Empty', ''), own('X-Blank', '  ')] }],
    ['repeated headers', { headers: [own('X-Twice', '1'), own('X-Twice', '2')] }],
    ['a header that looks like a file to read', { headers: [own('X-At', '@/etc/passwd')] }],
    ['no Accept and no User-Agent, which curl would add', { headers: [] }],
    ['own Accept and User-Agent', { headers: [own('accept', '*/*'), own('USER-AGENT', 'wayfarer/1')] }],
    ['a payload that looks like a file to read', { method: 'POST', payload: payloadOf(bytesFromText('@/etc/passwd')) }],
    ['a payload of nasty text', { method: 'POST', payload: payloadOf(bytesFromText(`${NASTY}\n${NASTY}\n`)) }],
    ['an empty payload', { method: 'POST', payload: payloadOf(new Uint8Array()) }],
    [
      'every byte',
      {
        method: 'PUT',
        payload: payloadOf(Uint8Array.from({ length: 256 }, (_, at) => at)),
        headers: [own('Content-Type', 'application/octet-stream')],
      },
    ],
    [
      'a payload longer than an argument may be',
      { method: 'POST', payload: payloadOf(new Uint8Array(300_000).fill(0x27)) },
    ],
    [
      'a payload over which curl would ask first',
      { method: 'POST', payload: payloadOf(new Uint8Array(1_200_000).fill(0x61)) },
    ],
    ['GET with a payload', { payload: payloadOf(bytesFromText('{"a":1}')) }],
    ['DELETE without one', { method: 'DELETE' }],
    ['a method of its own', { method: 'M-SEARCH' }],
    ['HEAD', { method: 'HEAD' }],
  ] satisfies [string, Partial<Draft>][])('sends %s as it was', async (_name, rest) => {
    await expectSame(draftOf({ url: urlOf('/huts'), ...rest }));
  });

  it.each([
    '/a/../b/./c',
    '/q?x={1,2}&y=[a-c]',
    "/it's?$HOME=`id`&z=%27%2F",
    '/?',
    '/a//b?c=#'.replace('#', ''),
    `/${'long/'.repeat(1200)}`,
    '/"<>|^`{}',
  ])('sends the target %s byte for byte', async (target) => {
    await expectSame(draftOf({ url: urlOf(target) }));
  });

  it('sends a POST without a payload with a length of 0, as browsers do', async () => {
    const { headers } = await send(draftOf({ method: 'POST', url: urlOf('/') }));
    expect(headers).toContainEqual({ name: 'Content-Length', value: '0' });
    expect(headers.map(({ name }) => name.toLowerCase())).not.toContain('content-type');
  });

  it('keeps the law for random headers and payloads', async () => {
    const value = fc
      .string({ unit: fc.constantFrom(...`ab'"\`$\\!%^&*(){};@=#~ü€`, ' ', '\t'), maxLength: 30 })
      .map((text) => text.trim());
    const bytes = fc.uint8Array({ maxLength: 60 });
    await fc.assert(
      fc.asyncProperty(fc.array(value, { maxLength: 4 }), bytes, async (values, payload) => {
        const headers = [...values.map((text, at) => own(`X-H${at}`, text)), own('Accept', 'a/b')];
        await expectSame(draftOf({ method: 'POST', url: urlOf('/'), headers, payload: payloadOf(payload) }));
      }),
      { numRuns: 25 },
    );
  });

  it('leaves out, with a warning, what no header can hold', async () => {
    const draft = draftOf({
      url: urlOf('/'),
      headers: [own('X-Break', 'a\r\nX-Injected: yes'), own('@/etc/passwd', 'x'), own('X-Good', '1')],
    });
    const { headers } = await send(draft);
    expect(headers.filter(({ name }) => name !== 'Host')).toEqual([{ name: 'X-Good', value: '1' }]);
    expect(render(draft).warnings).toHaveLength(2);
  });

  it("sends multipart parts by curl's own means and says which file is missing", () => {
    const parts = [
      { name: 'caption', value: '@"x";type=a', fileName: undefined, contentType: undefined },
      { name: 'photo', value: '', fileName: 'ma"ñana.png', contentType: 'image/png' },
    ];
    const { text, warnings } = render(
      draftOf({
        method: 'POST',
        payload: { type: 'parts', parts },
        headers: [own('Content-Type', 'multipart/form-data; boundary=x')],
      }),
    );
    expect(text).toContain(`--form-string 'caption=@"x";type=a'`);
    expect(text).toContain(`--form 'photo=@"ma\\"ñana.png";type=image/png'`);
    expect(text).not.toContain('boundary=x');
    expect(warnings.join()).toContain('ma"ñana.png');
  });
});

describe('quotePosix', () => {
  it('is read back by a shell as the very same text', async () => {
    const texts = fc.array(
      fc.string({ unit: 'grapheme' }).filter((text) => !text.includes('\0') && text.isWellFormed()),
      { minLength: 1, maxLength: 20 },
    );
    await fc.assert(
      fc.asyncProperty(texts, async (words) => {
        const { stdout } = await run('sh', ['-c', `printf '%s\\0' ${words.map(quotePosix).join(' ')}`]);
        expect(stdout.split('\0').slice(0, -1)).toEqual(words.map((word) => word));
      }),
      { numRuns: 40 },
    );
  });
});

describe('the draft of a captured request', () => {
  const exchange = (request: Record<string, unknown>) =>
    normaliseEntry(
      { request: { method: 'GET', url: 'https://api.cumbrera.example/a?b=1#c', ...request } } as unknown as JsonObject,
      0,
    );
  const header = (name: string, value = 'v') => ({ name, value });
  const kept = (draft: Draft): string[] => draft.headers.filter((one) => one.kept).map(({ name }) => name);

  it('leaves out what the client computes, what breaks a replay and what asks for a packed answer', () => {
    const headers = [
      ':method',
      'Content-Length',
      'Connection',
      'If-None-Match',
      'Range',
      'Accept-Encoding',
      'Accept',
      'X-App',
    ].map((name) => header(name));
    const draft = draftFromExchange(
      exchange({ headers: [...headers, header('Host', 'api.cumbrera.example')] }),
      'faithful',
    );
    expect(kept(draft)).toEqual(['Accept', 'X-App']);
    expect(draft.wantsCompressed).toBe(true);
    expect(draft.url).toBe('https://api.cumbrera.example/a?b=1');
  });

  it("keeps a Host that is not the address's", () => {
    expect(kept(draftFromExchange(exchange({ headers: [header('Host', 'other.example')] }), 'lean'))).toEqual(['Host']);
  });

  it("drops the browser's colour in the lean preset alone", () => {
    const headers = ['sec-ch-ua', 'Referer', 'Origin', 'DNT', 'User-Agent', 'Authorization'].map((name) =>
      header(name),
    );
    expect(kept(draftFromExchange(exchange({ headers }), 'faithful'))).toHaveLength(6);
    expect(kept(draftFromExchange(exchange({ headers }), 'lean'))).toEqual(['User-Agent', 'Authorization']);
  });

  it('joins the crumbs of a cookie', () => {
    const draft = draftFromExchange(
      exchange({ headers: [header('cookie', 'a=1'), header('accept'), header('cookie', 'b=2')] }),
      'lean',
    );
    expect(draft.headers.map(({ name, value }) => `${name}: ${value}`)).toEqual(['cookie: a=1; b=2', 'accept: v']);
  });

  it('masks credentials by name, whatever header carries them', () => {
    const headers = [
      header('Cookie', 's=1'),
      header('X-Api-Key', 'k'),
      header('x-csrf-token', 't'),
      header('Accept', 'a'),
    ];
    const masked = maskCredentials(draftFromExchange(exchange({ headers }), 'faithful'));
    expect(masked.headers.map(({ value }) => value)).toEqual(['<cookie>', '<x-api-key>', '<x-csrf-token>', 'a']);
  });

  it('says when the capture lacks the payload', () => {
    expect(draftFromExchange(exchange({ method: 'POST', bodySize: 812 }), 'faithful').notes).toEqual([
      'The request sent 812 bytes of payload that the capture does not hold.',
    ]);
  });
});
