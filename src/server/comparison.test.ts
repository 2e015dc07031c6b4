import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ExchangeRow } from '#core/analysis';
import type { Corrections } from '#core/compare';
import { type ExchangesAnswer, type ImportResult, type LoadAnswer, type ProblemAnswer, unpackTraits } from '#core/wire';
import { openConnection } from './db/connection';
import { type RunningApp, startServer } from './testing/process';
import { fetchRowsAt } from './testing/rows';

let app: RunningApp;
const ids = { first: '', fixed: '' };

async function take(name: string): Promise<string> {
  const query = new URLSearchParams({ name, importId: randomUUID() });
  const answer = await fetch(`${app.url}api/captures?${query}`, {
    method: 'POST',
    body: new Uint8Array(readFileSync(`demo/captures/alba-norte-${name}.har`)),
  });
  const [result] = (await answer.json()) as Extract<ImportResult, { readonly id: string }>[];
  return result?.id ?? '';
}

beforeAll(async () => {
  app = await startServer();
  ids.first = await take('first-visit');
  ids.fixed = await take('fixed-release');
  for (const id of Object.values(ids)) await fetch(`${app.url}api/captures/${id}/findings`);
});
afterAll(() => app.stop());

const get = async <T>(path: string): Promise<T> => (await fetch(new URL(path, app.url))).json() as Promise<T>;
async function send<T>(
  method: string,
  path: string,
  body: unknown,
): Promise<{ readonly status: number; readonly value: T }> {
  const answer = await fetch(new URL(path, app.url), {
    method,
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  return { status: answer.status, value: (await answer.json()) as T };
}

const rowsOf = (id: string): Promise<ExchangeRow[]> => fetchRowsAt(`${app.url}api/captures/${id}`);

describe('a capture as a comparison needs it', () => {
  it('has its rows with what matters of their headers, and bodies known by their bytes', async () => {
    const { traits, found, foretold } = await get<LoadAnswer>(`/api/captures/${ids.first}/load`);
    const [own, traitsOwn] = [await rowsOf(ids.first), unpackTraits(traits)];
    expect(traitsOwn).toHaveLength(own.length);
    const atlas = own.findIndex(({ url }) => url.includes('/atlas.'));
    expect(traitsOwn[atlas]?.headers.slice(0, 3)).toEqual(['text/javascript; charset=utf-8', undefined, 'no-store']);
    expect([found === null, foretold]).toEqual([false, null]);
  });

  it('knows the same bytes of two captures for the same', async () => {
    const hashes = await Promise.all(
      Object.values(ids).map(async (id) => {
        const { traits } = await get<LoadAnswer>(`/api/captures/${id}/load`);
        const at = (await rowsOf(id)).findIndex(({ url }) => url.endsWith('/logo.svg'));
        return unpackTraits(traits)[at]?.bodyHash;
      }),
    );
    expect(hashes[0]).toBeDefined();
    expect(hashes[1]).toBe(hashes[0]);
  });

  it('foretells a visit that comes so long after it', async () => {
    const { foretold } = await get<LoadAnswer>(`/api/captures/${ids.fixed}/load?after=60`);
    const atlas = (await rowsOf(ids.fixed)).findIndex(({ url }) => url.includes('/atlas.'));
    expect(foretold?.[atlas]).toBe('reused');
  });

  it('is refused for a time that is none', async () => {
    const answer = await fetch(`${app.url}api/captures/${ids.first}/load?after=-1`);
    expect([answer.status, ((await answer.json()) as ProblemAnswer).code]).toEqual([400, 'invalid-input']);
  });
});

describe('two exchanges from anywhere', () => {
  const compare = (here: unknown, there: unknown) =>
    send<ExchangesAnswer>('POST', '/api/compare/exchanges', { here, there });

  it('may be of different captures', async () => {
    const { value } = await compare({ capture: ids.first, place: 2 }, { capture: ids.fixed, place: 2 });
    expect([value.here.captureName, value.there.captureName]).toEqual(['first-visit', 'fixed-release']);
    expect(value.comparison.differences.some(({ part }) => part === 'body')).toBe(true);
    expect(value.comparison.notHad).toEqual([]);
  });

  it('may be pasted: of a request only what a request has is said', async () => {
    const text = "curl 'https://www.cumbrera.example/huts/brisa-norte' -H 'accept: text/html'";
    const { value } = await compare({ capture: ids.first, place: 2 }, { pasted: text });
    expect(value.there.name).toBe('pasted GET request');
    expect(value.comparison.differences).toContainEqual({
      part: 'path',
      name: 'segment 2',
      here: 'alba-norte',
      there: 'brisa-norte',
    });
    expect(value.comparison.notHad).toEqual(['timing and size', 'status', 'response header', 'caching', 'body']);
  });

  it('and of a response only what a response has', async () => {
    const text = 'HTTP/1.1 503 Busy\r\ncontent-type: application/json\r\n\r\n{"busy":true}';
    const { value } = await compare(
      { pasted: text },
      { pasted: text.replace('503 Busy', '200 OK').replace('true', 'false') },
    );
    expect(value.comparison.differences.map(({ part, here, there }) => [part, here, there])).toEqual([
      ['status', '503', '200'],
      ['caching', 'no', 'yes'],
      ['body', 'true', 'false'],
    ]);
  });

  it.each([
    [
      'what was deleted or never was',
      { capture: randomUUID(), place: 0 },
      404,
      'One of the captures is not on the shelf.',
    ],
    ['what is no exchange', { pasted: 'walk to the hut' }, 400, 'The pasted text is neither a request nor a response.'],
    ['nothing', { pasted: '' }, 400, '"here" '],
  ])('%s is told in a sentence', async (_, here, status, sentence) => {
    const { status: own, value } = await compare(here, { capture: ids.first, place: 0 });
    expect(own).toBe(status);
    expect((value as unknown as ProblemAnswer).sentence).toContain(sentence);
  });
});

describe('what was corrected in a matching', () => {
  const address = () => `/api/compare/corrections?a=${ids.first}&b=${ids.fixed}`;
  const correct = (a: number, b: number, isSame: boolean | null) =>
    send<Corrections>('PATCH', address(), { a, b, isSame });

  it('is kept, read from either side, replaced and taken back', async () => {
    await correct(139, 3, true);
    await correct(6, 7, false);
    expect(await get<Corrections>(address())).toEqual({ matched: [[139, 3]], parted: [[6, 7]] });
    const turned = `/api/compare/corrections?a=${ids.fixed}&b=${ids.first}`;
    expect(await get<Corrections>(turned)).toEqual({ matched: [[3, 139]], parted: [[7, 6]] });
    // One exchange cannot be the same as two.
    expect((await correct(140, 3, true)).value).toEqual({ matched: [[140, 3]], parted: [[6, 7]] });
    await correct(140, 3, null);
    expect((await correct(6, 7, null)).value).toEqual({ matched: [], parted: [] });
  });

  it('goes with its captures', async () => {
    await correct(1, 1, true);
    const { sqlite } = openConnection(app.dataFolder, false);
    sqlite.prepare('delete from captures where id = ?').run(ids.fixed);
    expect(sqlite.prepare('select count(*) from corrections').pluck().get()).toBe(0);
    sqlite.close();
    expect((await fetch(new URL(address(), app.url))).status).toBe(404);
  });
});
