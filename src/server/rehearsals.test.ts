import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ImportResult, Rehearsal, RehearsalOrder, RehearsalSeen, ResponseVariant } from '#core/wire';
import { newDataFolder, type RunningApp, startServer } from './testing/process';
import { ask, PLAIN_ORDER } from './testing/rehearsed';

let app: RunningApp;
const folder = newDataFolder();
let capture: string;

const entryOf = (path: string, body: string) => ({
  startedDateTime: '2026-10-05T08:00:00.000Z',
  time: 1,
  request: { method: 'GET', url: `https://api.cumbrera.example${path}`, headers: [] },
  response: { status: 200, headers: [], content: { mimeType: 'application/json', text: body } },
  timings: { send: 0, wait: 1, receive: 0 },
});

beforeAll(async () => {
  app = await startServer(folder);
  const entries = [entryOf('/huts', '{"huts":[1]}'), entryOf('/beds', '{"beds":[2]}')];
  const har = JSON.stringify({ log: { version: '1.2', creator: { name: 'x', version: '1' }, entries } });
  const query = new URLSearchParams({ name: 'huts', importId: randomUUID() });
  const answer = await fetch(`${app.url}api/captures?${query}`, { method: 'POST', body: har });
  const [result] = (await answer.json()) as ImportResult[];
  if (result?.type !== 'imported') throw new Error('the capture did not come in');
  capture = result.id;
});
afterAll(() => app.stop());

const at = (path = ''): string => `${app.url}api/captures/${capture}/rehearsals${path}`;
const send = (url: string, method: string, body: unknown): Promise<Response> =>
  fetch(url, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
const json = async <T>(response: Promise<Response>): Promise<T> => (await (await response).json()) as T;
const begin = (order: Partial<RehearsalOrder> = {}): Promise<Rehearsal> =>
  json(send(at(), 'POST', { ...PLAIN_ORDER, ...order }));
const change = ({ id }: Rehearsal, what: object): Promise<Rehearsal> => json(send(at(`/${id}`), 'PATCH', what));
const look = ({ id }: Rehearsal, after = 0): Promise<RehearsalSeen> => json(fetch(at(`/${id}?after=${after}`)));
const get = async ({ port = 0 }: Rehearsal, target: string): Promise<string> => {
  const { status, bytes } = await ask({ port, target, headers: [{ name: 'Host', value: `127.0.0.1:${port}` }] });
  return `${status} ${bytes}`;
};

describe('a rehearsal of the app', () => {
  it('answers, tells what it was asked, and leaves it as a capture once it is stopped', async () => {
    const rehearsal = await begin();
    expect(rehearsal).toMatchObject({
      status: 'running',
      asked: 0,
      addresses: [{ captured: 'https://api.cumbrera.example' }],
    });
    expect(await get(rehearsal, '/huts')).toBe('200 {"huts":[1]}');
    expect(await get(rehearsal, '/wardens')).toMatch(/^404 No captured request fits|^404 Nothing like it/);
    await expect.poll(async () => (await look(rehearsal)).asked.length).toBe(2);
    const seen = await look(rehearsal);
    expect(seen.asked.map(({ number, fits, taken, row }) => [number, fits, taken, row.status])).toEqual([
      [1, 'fits', 0, 200],
      [2, 'none', undefined, 404],
    ]);
    expect(seen.asked[0]?.head).toMatch(/^GET \/huts HTTP\/1\.1\r\nHost: 127\.0\.0\.1/);
    expect((await look(rehearsal, 1)).asked).toHaveLength(1);
    expect((await json<Rehearsal[]>(fetch(`${app.url}api/rehearsals`))).map(({ id }) => id)).toEqual([rehearsal.id]);

    await get(rehearsal, '/beds');
    const stopped = await change(rehearsal, { does: 'stop' });
    expect(stopped).toMatchObject({ status: 'stopped', asked: 3, missed: 1, notKept: 0 });
    expect(stopped.port).toBeUndefined();
    await expect(get(rehearsal, '/huts')).rejects.toThrow();
    const har = await json<{ log: { entries: { request: { url: string } }[] } }>(
      send(`${app.url}api/captures/${rehearsal.id}/har`, 'POST', {}),
    );
    expect(har.log.entries.map(({ request }) => request.url)).toEqual([
      'https://api.cumbrera.example/huts',
      `http://127.0.0.1:${rehearsal.port}/wardens`,
      'https://api.cumbrera.example/beds',
    ]);
    const shelf = await json<{ id: string }[]>(fetch(`${app.url}api/captures`));
    expect(shelf.map(({ id }) => id)).toEqual([capture]);
  });

  it('plays only what it is to play, changed as it is told, several at once', async () => {
    const [one, other] = await Promise.all([
      begin({ places: [1] }),
      begin({ changes: [{ exchange: 0, emptiesList: true }] }),
    ]);
    expect(await get(one, '/huts')).toMatch(/^404/);
    expect(await get(one, '/beds')).toBe('200 {"beds":[2]}');
    expect(await get(other, '/huts')).toBe('200 {"huts":[]}');
    await Promise.all([change(one, { deleted: true }), change(other, { deleted: true })]);
    expect((await json<Rehearsal[]>(fetch(at()))).map(({ id }) => id)).not.toContain(one.id);
    expect(await change(one, { deleted: false })).toMatchObject({ id: one.id, status: 'stopped', asked: 2 });
  });

  it('keeps changed responses with the capture', async () => {
    const variants: ResponseVariant[] = [
      { id: randomUUID(), name: 'no beds', changes: [{ exchange: 1, status: 503, delayMs: 100 }] },
    ];
    const address = `${app.url}api/captures/${capture}/variants`;
    expect(await json(fetch(address))).toEqual([]);
    await send(address, 'PUT', { variants });
    expect(await json(fetch(address))).toEqual(variants);
    const refused = await send(address, 'PUT', {
      variants: [{ ...variants[0], changes: [{ exchange: 1, status: 99 }] }],
    });
    expect(refused.status).toBe(400);
  });

  it.each([
    ['no exchange', { places: [] }],
    ['a time before it began', { time: -1 }],
    ['a header that is none', { changes: [{ exchange: 0, headers: [{ name: 'a b', value: 'x' }] }] }],
  ])('is not begun with %s', async (_, order) => {
    const response = await send(at(), 'POST', { ...PLAIN_ORDER, ...order });
    expect([response.status, ((await response.json()) as { sentence: string }).sentence]).toEqual([
      400,
      expect.stringMatching(/\.$/),
    ]);
  });

  it('keeps counting where more comes than can be kept', async () => {
    const rehearsal = await begin();
    const many = 1500;
    for (let sent = 0; sent < many; sent += 100)
      await Promise.all(Array.from({ length: 100 }, () => get(rehearsal, '/huts')));
    const stopped = await change(rehearsal, { does: 'stop' });
    expect(stopped.asked).toBe(many);
    const kept: number[] = [];
    for (let after = 0; ; ) {
      const { asked } = await look(rehearsal, after);
      if (asked.length === 0) break;
      kept.push(...asked.map(({ number }) => number));
      after = kept.at(-1) ?? 0;
    }
    expect(kept.length + stopped.notKept).toBe(many);
  });

  it('ends with the server, and says so', async () => {
    const rehearsal = await begin();
    await get(rehearsal, '/huts');
    await expect.poll(async () => (await look(rehearsal)).asked.length).toBe(1);
    await app.stop('SIGKILL');
    app = await startServer(folder);
    expect((await look(rehearsal)).rehearsal).toMatchObject({
      status: 'stopped',
      asked: 1,
      problem: 'It stopped with the server.',
    });
    expect((await look(rehearsal)).asked).toHaveLength(1);
  });
});
