import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { brotliCompressSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Variation } from '#core/analysis';
import type { Hit } from '#core/find';
import type { FindProgress, ImportResult, PackedTexts } from '#core/wire';
import { TookTooLong, withinTime } from './find/bounded';
import { type RunningApp, startServer } from './testing/process';

const SECRET = 'tok-Ünï-5f2a91c0';
const packed = brotliCompressSync(Buffer.from(`{"hidden": "${SECRET}"}`)).toString('base64');
const entry = (url: string, response: Record<string, unknown>, request: Record<string, unknown> = {}) => ({
  startedDateTime: '2026-10-03T09:00:00Z',
  request: { method: 'GET', url: `https://a.example${url}`, headers: [], ...request },
  response: { status: 200, headers: [], ...response },
  timings: { send: 0, wait: 5, receive: 1 },
});
const json = (text: string) => ({ content: { mimeType: 'application/json', text } });
const CAPTURE = {
  log: {
    version: '1.2',
    comment: 'kept as it is',
    entries: [
      entry('/one', json(`{"deep": [{"token": ${JSON.stringify(SECRET)}}]}`), {
        headers: [
          { name: 'Accept', value: 'a/b' },
          { name: 'Cookie', value: 'session=s1; lang=es' },
        ],
      }),
      entry('/two', json(`{"deep": [{"token": ${JSON.stringify(SECRET)}}]}`), {
        headers: [{ name: 'accept', value: 'c/d' }],
      }),
      entry(`/three?x=${encodeURIComponent(SECRET)}`, {
        headers: [{ name: 'Set-Cookie', value: 'session=s2; Path=/' }],
        content: {},
      }),
      entry('/four', {
        headers: [{ name: 'content-encoding', value: 'br' }],
        content: { mimeType: 'application/json', encoding: 'base64', text: packed },
      }),
      entry('/five', json(JSON.stringify({ basic: Buffer.from(`user:${SECRET}`).toString('base64') }))),
      entry('/six', { content: { mimeType: 'text/plain', text: `${'a'.repeat(60)}!` } }),
      entry('/seven', {
        content: {
          mimeType: 'text/plain; charset=iso-8859-1',
          encoding: 'base64',
          text: Buffer.from('ca\xf1\xf3n', 'latin1').toString('base64'),
        },
      }),
    ],
  },
};

let app: RunningApp;
let capture: string;
beforeAll(async () => {
  app = await startServer();
  const query = new URLSearchParams({ name: 'seven', importId: randomUUID() });
  const answer = await fetch(`${app.url}api/captures?${query}`, { method: 'POST', body: JSON.stringify(CAPTURE) });
  const [result] = (await answer.json()) as Extract<ImportResult, { readonly id: string }>[];
  capture = `${app.url}api/captures/${result?.id}`;
});
afterAll(() => app.stop());

const get = async <T>(path: string): Promise<T> => (await fetch(`${capture}/${path}`)).json() as Promise<T>;

async function find(
  text: string,
  more: Record<string, string> = {},
): Promise<{ hits: Hit[]; problem: string | undefined }> {
  const answer = await fetch(`${capture}/find?${new URLSearchParams({ text, ...more })}`);
  const messages = (await answer.text())
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as FindProgress);
  const last = messages.at(-1);
  return {
    hits: messages.flatMap((message) => (message.type === 'found' ? message.hits : [])),
    problem: last?.type === 'ended' ? last.problem : 'it never ended',
  };
}
const places = ({ hits }: { hits: Hit[] }) => hits.map(({ index, place, path, form }) => [index, place, path, form]);

describe('find', () => {
  it('finds a value wherever it stands: plain, twice in one kept body, URL-encoded, compressed, in base64', async () => {
    expect(places(await find(SECRET))).toEqual([
      [0, 'response body', '$.deep[0].token', 'plain'],
      [1, 'response body', '$.deep[0].token', 'plain'],
      [2, 'address', undefined, 'url'],
      [3, 'response body', '$.hidden', 'plain'],
      [4, 'response body', '$.basic', 'base64'],
    ]);
  });

  it('finds ASCII whatever its case, or as typed, and whole words', async () => {
    expect(places(await find('TOK-'))).toHaveLength(4);
    expect(places(await find('TOK-', { case: 'true' }))).toEqual([]);
    expect(places(await find('lan', { word: 'true' }))).toEqual([]);
    expect(places(await find('lang', { word: 'true' }))).toEqual([[0, 'request header', 'Cookie', 'plain']]);
  });

  it('reads bodies by their charset', async () => {
    expect(places(await find('cañón'))).toEqual([[6, 'response body', 'line 1', 'plain']]);
  });

  it('gives up an expression that never ends, keeps what it found before, and finds again afterwards', async () => {
    const { hits, problem } = await find('(a+)+b$|tok-', { regex: 'true' });
    expect(problem).toContain('takes too long on exchange #5');
    expect(hits.map(({ index }) => index)).toEqual([0, 1, 2, 3]);
    expect((await find('(', { regex: 'true' })).problem).toContain('cannot be read');
    expect((await find('one')).hits).toHaveLength(1);
  });

  it('ends when its page goes away, and answers the next one', async () => {
    const stop = new AbortController();
    const answer = fetch(`${capture}/find?${new URLSearchParams({ text: '(a+)+$', regex: 'true' })}`, {
      signal: stop.signal,
    });
    setTimeout(() => stop.abort(), 200);
    await expect(answer.then((one) => one.text())).rejects.toThrow();
    expect((await find('two')).hits).toHaveLength(1);
  });

  it('refuses to look for nothing', async () => {
    expect((await fetch(`${capture}/find?text=`)).status).toBe(400);
  });
});

it('bounds any computation', () => {
  expect(withinTime(1000, () => 3)).toBe(3);
  expect(() => withinTime(1000, () => JSON.parse('{'))).toThrow(SyntaxError);
  expect(() => withinTime(100, () => /^(a+)+$/.test(`${'a'.repeat(40)}!`))).toThrow(TookTooLong);
});

describe('columns of headers and cookies', () => {
  const cellsOf = ({ values, codes }: PackedTexts) => codes.map((code) => values[code]);

  it('have a value for each exchange, whatever the case of the name', async () => {
    const columns = await get<Record<string, PackedTexts>>('columns?name=req.accept&name=cookie.session');
    expect(cellsOf(columns['req.accept'] as PackedTexts)).toEqual(['a/b', 'c/d', ...new Array(5).fill(undefined)]);
    expect(cellsOf(columns['cookie.session'] as PackedTexts).slice(0, 3)).toEqual(['s1', undefined, 's2']);
  });

  it('are named with their counts', async () => {
    expect(await get('names')).toEqual([
      { name: 'cookie.lang', count: 1 },
      { name: 'cookie.session', count: 2 },
      { name: 'req.accept', count: 2 },
      { name: 'req.cookie', count: 1 },
      { name: 'res.content-encoding', count: 1 },
      { name: 'res.set-cookie', count: 1 },
    ]);
  });

  it('are refused by any other name', async () =>
    expect((await fetch(`${capture}/columns?name=url`)).status).toBe(400));
});

describe('a capture of some exchanges', () => {
  it('holds just these as they were recorded, in the order of the file, with all that enclosed them', async () => {
    const answer = await fetch(`${capture}/har`, { method: 'POST', body: JSON.stringify({ places: [4, 0, 99] }) });
    const { entries } = CAPTURE.log;
    expect(await answer.json()).toEqual({ log: { ...CAPTURE.log, entries: [entries[0], entries[4]] } });
  });

  it('of one navigation has the times of that one, not of the last in its tab', async () => {
    const query = new URLSearchParams({ name: 'two navigations', importId: randomUUID() });
    const body = readFileSync('demo/captures/booking-gone-wrong.har');
    const taken = await fetch(`${app.url}api/captures?${query}`, { method: 'POST', body });
    const [result] = (await taken.json()) as Extract<ImportResult, { readonly id: string }>[];
    const pagesOf = async (places: readonly number[]): Promise<unknown> => {
      const url = `${app.url}api/captures/${result?.id}/har`;
      const answer = await fetch(url, { method: 'POST', body: JSON.stringify({ places }) });
      return ((await answer.json()) as { log: { pages: unknown } }).log.pages;
    };
    const { pages, entries } = JSON.parse(body.toString()).log;
    const recorded = pages[0];
    const isSent = ({ request }: { request: { method: string; url: string } }): boolean =>
      request.method === 'POST' && request.url.endsWith('/book/alba-norte');
    const beganMs = Date.parse(entries.find(isSent).startedDateTime) - Date.parse(recorded.startedDateTime);
    const loadedMs = recorded.pageTimings.onLoad - beganMs;
    expect(await pagesOf([0, 1])).toMatchObject([
      { startedDateTime: recorded.startedDateTime, pageTimings: { onContentLoad: -1, onLoad: -1 } },
    ]);
    expect(await pagesOf([35, 36])).toMatchObject([
      { id: recorded.id, title: recorded.title, pageTimings: { onLoad: loadedMs } },
    ]);
    expect(await pagesOf([0, 36])).toEqual([recorded]);
  });

  it('of a capture that is gone is told of', async () => {
    const answer = await fetch(`${app.url}api/captures/${randomUUID()}/har`, { method: 'POST', body: '{"places":[]}' });
    expect(answer.status).toBe(404);
  });
});

it('compares calls from what was kept of them', async () => {
  const { calls, fields } = await get<Variation>('variation?place=0&place=1');
  expect(calls).toEqual([0, 1]);
  expect(fields.find(({ name }) => name === 'accept')).toMatchObject({
    values: ['a/b', 'c/d'],
    course: { type: 'varies' },
  });
  expect((await fetch(`${capture}/variation?place=99`)).status).toBe(404);
});

it('keeps settings, and only those that there are in the shape that they have', async () => {
  const put = (name: string, value: unknown) =>
    fetch(`${app.url}api/settings/${name}`, { method: 'PUT', body: JSON.stringify(value) });
  const read = async () => (await fetch(`${app.url}api/settings/filters`)).json();
  expect(await read()).toBeNull();
  const filters = { recent: ['failed'], named: [{ name: 'slow', text: 'wait > 1 s' }] };
  expect((await put('filters', filters)).status).toBe(200);
  expect((await put('filters', { recent: [3], named: [] })).status).toBe(400);
  expect((await put('colours', {})).status).toBe(400);
  expect(await read()).toEqual(filters);
});

it('counts what the demo holds alike in find and in the file itself', async () => {
  const text = readFileSync('demo/captures/booking-gone-wrong.har', 'utf8');
  const answer = await fetch(`${app.url}api/captures?${new URLSearchParams({ name: 'b', importId: randomUUID() })}`, {
    method: 'POST',
    body: text,
  });
  const [result] = (await answer.json()) as Extract<ImportResult, { readonly id: string }>[];
  const found = await fetch(`${app.url}api/captures/${result?.id}/find?text=O%27Farrow`);
  const places = [...(await found.text()).matchAll(/"index":(\d+)/g)].map(([, index]) => Number(index));
  const holding = (JSON.parse(text).log.entries as unknown[]).flatMap((one, at) =>
    /O('|%27)Farrow/.test(JSON.stringify(one)) ? at : [],
  );
  expect([...new Set(places)]).toEqual(holding);
  expect(holding.length).toBeGreaterThan(0);
});
